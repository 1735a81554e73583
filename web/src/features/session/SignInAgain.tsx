/** The sign-in over the page, when the session ended under it: what was typed stays where it is. */
import type { Session } from '@rawbits/api';
import { useEffect, useRef } from 'react';
import { api } from '../../platform/api/api.ts';
import { sessionApi } from '../../platform/endpoints/session.ts';
import { sessionResumed } from '../../platform/session/slice.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { SignInForm } from './SignInForm.tsx';

export function SignInAgain({ before }: { before: Session['operator'] }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const dispatch = useAppDispatch();
  useEffect(() => {
    const back = document.activeElement;
    dialog.current!.showModal();
    dialog.current!.querySelector<HTMLInputElement>('input[type=password]')?.focus();
    return () => {
      if (back instanceof HTMLElement && back.isConnected) back.focus();
    };
  }, []);
  const goOn = async (session: Session) => {
    // Somebody else does not go on with what this operator typed.
    if (session.operator.id !== before.id) return window.location.assign('/');
    await dispatch(sessionApi.util.upsertQueryData('session', undefined, session));
    dispatch(sessionResumed());
    dispatch(
      api.util.invalidateTags([
        'Reads',
        'Formats',
        'Cards',
        'Controllers',
        'Events',
        'Trail',
        'Rig',
        'Operators',
        'Cases',
      ]),
    );
  };
  return (
    <dialog
      ref={dialog}
      aria-labelledby="sign-in-again"
      onCancel={(event) => event.preventDefault()}
      className="panel m-auto w-full max-w-sm p-6 backdrop:bg-black/40"
    >
      <h2 id="sign-in-again" className="text-[1.15rem]">
        Your session has ended
      </h2>
      <p className="my-2 text-ink-2">
        Sign in to go on where you are. What you typed on this page is still there; what you last tried to save was not
        saved.
      </p>
      <SignInForm login={before.login} onSignedIn={goOn} />
    </dialog>
  );
}
