import type { Session } from '@rawbits/api';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { sessionApi, useSetupStateQuery } from '../../platform/endpoints/session.ts';
import type { Told } from '../../platform/forms/FailureNote.tsx';
import { sessionResumed } from '../../platform/session/slice.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { FirstSetUp } from './FirstSetUp.tsx';
import { SignInForm } from './SignInForm.tsx';

/** The page of whoever is not signed in. */
export function SignIn({ failure }: { failure?: Told }) {
  const dispatch = useAppDispatch();
  const { data: setup } = useSetupStateQuery();
  const onSignedIn = async (session: Session) => {
    dispatch(sessionResumed());
    await dispatch(sessionApi.util.upsertQueryData('session', undefined, session));
  };
  if (setup?.open) return <FirstSetUp onSignedIn={onSignedIn} />;
  return (
    <main className="mx-auto mt-[18vh] w-full max-w-sm p-4">
      <div className="panel grid gap-4 p-6">
        <div>
          <MiniTape bits="0101001001000010" />
          <h1 className="mt-2">Raw Bits</h1>
          <p className="text-ink-2">Sign in to your site.</p>
        </div>
        <SignInForm failure={failure} onSignedIn={onSignedIn} />
      </div>
    </main>
  );
}
