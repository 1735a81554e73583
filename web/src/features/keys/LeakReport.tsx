/** Where a leak at the chosen holders would reach, and what has to be rolled over then. */
import { Link } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { leakAt, type Matrix } from './matrix.ts';

export function LeakReport({ matrix, chosen }: { matrix: Matrix; chosen: ReadonlySet<string> }) {
  const { id: site } = useSite();
  const names = matrix.holders.filter(({ id }) => chosen.has(id)).map(({ name }) => name);
  const leaks = leakAt(matrix, chosen);
  return (
    <section className="panel grid content-start gap-2 p-4" aria-label="If it leaks" aria-live="polite">
      <h2>If it leaks</h2>
      {names.length === 0 && (
        <p className="text-ink-2">
          Tick a person, a reader or a partner in the table: what they know, alone or with the others that are ticked,
          and what has to be rolled over then.
        </p>
      )}
      {names.length > 0 && leaks.length === 0 && (
        <p>
          <strong>{names.join(' and ')}</strong> {names.length === 1 ? 'knows' : 'know'} no key whole, not even
          together: nothing has to be rolled over.
        </p>
      )}
      {leaks.length > 0 && (
        <>
          <p>
            <strong>{names.join(' and ')}</strong> {names.length === 1 ? 'knows' : 'know'}{' '}
            {counted(leaks.length, 'version')} of keys. To be rolled over:
          </p>
          <ul className="grid gap-2">
            {leaks.map(({ row, how, readers, partners }) => (
              <li key={`${row.keyId} ${row.version}`} className="border-t border-faint pt-1">
                <Link to={`/${site}/keys/${row.keyId}`} className="font-bold underline">
                  {row.name}, version {row.version}
                </Link>
                {how === 'together' && ' (by their components together)'}
                <ul className="list-disc pl-5 text-ink-2">
                  {row.cards > 0 && <li>{counted(row.cards, 'card')} to be encoded anew</li>}
                  {readers.length > 0 && <li>readers to be set anew: {readers.join(', ')}</li>}
                  {partners.length > 0 && <li>partners to be given another: {partners.join(', ')}</li>}
                  {row.cards + readers.length + partners.length === 0 && (
                    <li>no card, reader or partner on file has it: a new version is enough</li>
                  )}
                  {!row.inUse && <li>it is not in use any more; destroy it once nothing carries it</li>}
                </ul>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
