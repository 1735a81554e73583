/** What the cards prove: the layouts that fit, the formats known, and what it all rests on. */
import type { GroupFinding } from '@rawbits/core/identify';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { settledInWords } from './columns.ts';

export function Proves({
  finding,
  layout,
  onLayout,
}: {
  finding: GroupFinding;
  layout: number;
  onLayout: (index: number) => void;
}) {
  const { id: site } = useSite();
  const { data: codes = [] } = useFacilityCodesQuery(site);
  const codeName = (code: string) => {
    const known = codes.find((c) => c.code === code);
    return known ? ` (${known.name})` : ' (not named at this site)';
  };
  return (
    <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="What these cards prove">
      <h2>What these cards prove</h2>
      <p data-testid="summary">{finding.summary}</p>
      <p data-testid="known-so-far">{settledInWords(finding)}</p>
      <Settled finding={finding} />
      {finding.layouts.length > 0 && (
        <div data-testid="layouts">
          <h3 className="font-bold">
            {finding.layouts.length === 1 ? 'The layout that fits' : 'Layouts that fit, to lay over the stack'}
          </h3>
          {finding.layouts.map((l, i) => (
            <label
              key={l.layout}
              className={`flex cursor-pointer items-baseline gap-2 p-1 ${i === layout ? 'bg-chosen' : ''}`}
            >
              <input
                type="radio"
                name="layout"
                className="radio radio-xs"
                checked={i === layout}
                onChange={() => onLayout(i)}
              />
              <span className="min-w-0">
                <code className="font-mono break-words">{l.layout}</code>
                <span className="block text-ink-2">
                  {l.format ? `${l.format} of the library` : 'put together'}, presumed
                  {l.facility !== undefined && `, facility code ${l.facility}${codeName(l.facility)}`}; by chance once
                  in 2^{l.evidence}
                </span>
              </span>
            </label>
          ))}
        </div>
      )}
      <Known finding={finding} />
      {finding.reading && (
        <details>
          <summary className="cursor-pointer text-ink-2">What this rests on</summary>
          <ul className="list-disc pl-5 text-ink-2">
            {finding.assumptions.map((assumption) => (
              <li key={assumption}>{assumption}</li>
            ))}
            <li>
              the number stands at {finding.places.length > 0 ? finding.places.join('; or ') : 'no one place as it is'}
            </li>
            {finding.rivals.map((rival) => (
              <li key={rival} className="text-signal">
                another way to read the prints also fits every card: {rival}
              </li>
            ))}
            {finding.lengths && (
              <li>
                the length is a question:{' '}
                {finding.lengths.length === 0
                  ? 'no library format fits'
                  : finding.lengths.map((l) => `${l.length} bits (${l.formats.join(', ')})`).join(', or ')}
              </li>
            )}
          </ul>
        </details>
      )}
    </section>
  );
}

/** Number bits whose effect is proven by itself, while whole bits of the read may not be yet. */
function Settled({ finding }: { finding: GroupFinding }) {
  const { settled } = finding;
  if (settled.length === 0) return null;
  return (
    <ul data-testid="settled">
      {settled.slice(0, 6).map(({ bit, turns }) => (
        <li key={bit}>
          <strong className="font-mono">n{bit}</strong> <span className="text-primary">proven</span>: turns{' '}
          {turns.length === 0 ? 'no bit' : `${turns.length === 1 ? 'bit' : 'bits'} ${turns.join(', ')}`}
        </li>
      ))}
      {settled.length > 6 && <li className="text-ink-2">and {settled.length - 6} more number bits</li>}
    </ul>
  );
}

function Known({ finding }: { finding: GroupFinding }) {
  const partly = finding.known.filter(
    (k) => k.misfits.length > 0 && !finding.layouts.some((l) => l.format === k.format),
  );
  if (finding.known.length === 0)
    return <p className="text-ink-2">No library format of {finding.length} bits fits any card.</p>;
  if (partly.length === 0) return null;
  return (
    <details>
      <summary className="cursor-pointer text-ink-2">
        {partly.length} library {partly.length === 1 ? 'format fits' : 'formats fit'} only some
      </summary>
      <ul className="text-ink-2">
        {partly.map(({ format, fits, misfits }) => (
          <li key={format}>
            {format} fits {fits}; not card {misfits[0]!.row}: {misfits[0]!.reason}
          </li>
        ))}
      </ul>
    </details>
  );
}
