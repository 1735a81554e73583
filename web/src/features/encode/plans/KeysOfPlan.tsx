/** Whether the keys of a saved plan are used by it: what waits for a custodian, and a plan that was changed in the database. */
import type { OnePlan } from '@rawbits/api';
import { Link } from 'react-router';
import { useAskForKeyUseMutation } from '../../../platform/endpoints/keys.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

export function KeysOfPlan({ saved: { id, current, problem, keysWaiting } }: { saved: OnePlan }) {
  const { id: site, may } = useSite();
  const [ask, { error, isLoading, isSuccess }] = useAskForKeyUseMutation();
  if (problem !== null)
    return (
      <div className="panel grid gap-1 border-signal p-2 text-signal" role="alert">
        <p>{problem} Until then no card is encoded and no reader is set up by it.</p>
        {isSuccess ? (
          <p>Asked for: another custodian agrees on the screen Keys.</p>
        ) : (
          may('hold keys') && (
            <button
              type="button"
              className="btn btn-line btn-small justify-self-start"
              disabled={isLoading}
              onClick={() => void ask({ params: { site }, body: { kind: 'accept', what: 'plan', id } })}
            >
              Ask another custodian to accept it as it is now
            </button>
          )
        )}
        <FailureNote failure={error} />
      </div>
    );
  if (keysWaiting.length === 0) return null;
  return (
    <p className="text-signal">
      Version {current} waits for a key custodian: {keysWaiting.map((name) => `“${name}”`).join(', ')}{' '}
      {keysWaiting.length === 1 ? 'is' : 'are'} not agreed for it yet.{' '}
      <Link to={`/${site}/keys`} className="underline">
        Keys
      </Link>
    </p>
  );
}
