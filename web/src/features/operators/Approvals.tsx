/** What waits for a second person, to agree or refuse. */
import { useApprovalsQuery, useSettleApprovalMutation } from '../../platform/endpoints/operators.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';

export function Approvals() {
  const clock = useClock();
  const { id: site } = useSite();
  const { data = [], error } = useApprovalsQuery(site);
  const [settle, { error: unsettled, isLoading }] = useSettleApprovalMutation();
  return (
    <section className="panel grid gap-2 p-4" aria-label="Waiting for a second person">
      <h2>Waiting for a second person</h2>
      {data.length === 0 && (
        <p className="text-ink-2">
          Nothing. Whatever concerns a key custodian waits here until another administrator or another key custodian
          agrees.
        </p>
      )}
      <ul className="grid gap-2">
        {data.map(({ id, what, askedBy, askedAt, mayAgree }) => (
          <li key={id} className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-faint pt-2">
            <span className="min-w-0 flex-1">
              <strong>{what}</strong>{' '}
              <span className="text-ink-2">
                asked for by {askedBy}, {clock(askedAt)}
              </span>
            </span>
            {mayAgree ? (
              <button
                type="button"
                className="btn btn-primary btn-small"
                disabled={isLoading}
                onClick={() => void settle({ site, id, agree: true })}
              >
                Agree
              </button>
            ) : (
              <span className="text-ink-2">somebody else has to agree</span>
            )}
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={isLoading}
              onClick={() => void settle({ site, id, agree: false })}
            >
              {mayAgree ? 'Refuse' : 'Take back'}
            </button>
          </li>
        ))}
      </ul>
      <FailureNote failure={unsettled ?? error} />
    </section>
  );
}
