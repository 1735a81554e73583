/** Who would be let in at a reader: each card by its plan, read by the reader’s settings, decided on as its controller would. */
import type { Reader } from '@rawbits/api';
import { useState } from 'react';
import { useWouldOpenQuery } from '../../../platform/endpoints/readerPlans.ts';
import { useRunsQuery } from '../../../platform/endpoints/runs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { inSiteDays } from '../../../platform/words/siteDays.ts';

export function WouldOpen({ reader }: { reader: Reader }) {
  const { id: site, zone } = useSite();
  const { data: runs = [] } = useRunsQuery(site);
  const [run, setRun] = useState('');
  const { data, error, isFetching } = useWouldOpenQuery({ site, id: reader.id, ...(run && { run }) });
  const encoding = runs.filter(({ kind }) => kind === 'encode');
  return (
    <div className="mt-2 grid gap-2 border border-base-300 p-3" data-testid="would-open">
      <label className="flex flex-wrap items-center gap-2">
        <span className="text-ink-2">Cards</span>
        <select className="select" value={run} onChange={(event) => setRun(event.target.value)}>
          <option value="">that are encoded</option>
          {encoding.map(({ id, plan, wanted, startedAt }) => (
            <option key={id} value={id}>
              of the run of {wanted}, {plan.name}, {startedAt.slice(0, 10)}
            </option>
          ))}
        </select>
      </label>
      <FailureNote failure={error} />
      {isFetching && !data && <p>Putting each on a simulated card …</p>}
      {data?.problem && (
        <p className="font-bold text-signal">The settings of the reader do not fit the plan: {data.problem}.</p>
      )}
      {data && data.cards.length === 0 && (
        <p className="text-ink-2">None yet: start a run under Encode, and come back before the first blank.</p>
      )}
      {data && data.cards.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th scope="col">card</th>
              <th scope="col">holder</th>
              <th scope="col">would be</th>
              <th scope="col">since</th>
            </tr>
          </thead>
          <tbody>
            {data.cards.map(({ card, holder, outcome, reason, bits }) => (
              <tr key={card}>
                <td className="font-mono" title={bits ?? undefined}>
                  {card}
                </td>
                <td>{holder}</td>
                <td className={outcome === 'refused' ? 'font-bold text-signal' : 'font-bold text-primary'}>
                  {outcome}
                </td>
                <td>{inSiteDays(reason, zone)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
