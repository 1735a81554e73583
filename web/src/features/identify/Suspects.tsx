/** What does not belong: the likeliest explanation first, each with what puts it right as one click. */
import type { GroupFinding, Split, Suspect } from '@rawbits/core/identify';
import { percentOf } from '@rawbits/core/identify';
import { mendInWords, mendSpecimens } from './mendSpecimens.ts';
import type { WorkingCase } from './useCase.ts';

const MOST_SHOWN = 6;

export function Suspects({ finding, working }: { finding: GroupFinding; working: WorkingCase }) {
  const { suspects, splits, assuming } = finding;
  if (suspects.length === 0 && splits.length === 0)
    return finding.consistent ? null : (
      <p className="panel border-signal px-3 py-2 text-signal print:hidden">
        These cards do not agree with one another, and no set of up to {finding.searchedUpTo} of them explains it. Set
        aside what you doubt.
      </p>
    );
  const mend = (suspect: Suspect) =>
    working.undoable(`Put right (${mendInWords(suspect)}).`, (all) => mendSpecimens(all, suspect.mend!));
  const setAside = ({ rows }: Suspect) =>
    working.undoable('Set aside.', (all) => all.map((s, i) => (rows.includes(i + 1) ? { ...s, setAside: true } : s)));
  const part = ({ groups }: Split) =>
    working.undoable('Parted in two groups.', (all) =>
      all.map((s, i) => ({
        ...s,
        group: groups[0]!.includes(i + 1) ? 'first' : groups[1]!.includes(i + 1) ? 'second' : s.group,
      })),
    );
  return (
    <section
      data-testid="suspects"
      className="panel border-l-4 border-l-signal! px-3 py-2 print:hidden"
      aria-label={suspects.length > 0 ? 'Suspects' : 'Two boxes in one'}
    >
      <ul className="grid gap-y-1">
        {splits.slice(0, 2).map((split) => (
          <li key={split.words} className="flex flex-wrap items-baseline gap-x-3">
            <span>
              {split.words} Cards {split.groups[0]!.join(', ')} and {split.groups[1]!.join(', ')}.
            </span>
            <button type="button" className="switch-link underline" onClick={() => part(split)}>
              part them
            </button>
          </li>
        ))}
        {suspects.slice(0, MOST_SHOWN).map((suspect, i) => (
          <li
            key={`${suspect.kind} ${suspect.rows.join()} ${suspect.words}`}
            className="flex flex-wrap items-baseline gap-x-3"
          >
            <span>
              {i === 0 ? <strong className="text-signal">{suspect.words}</strong> : suspect.words}
              {suspect.odds !== undefined && (
                <span className="text-ink-2"> Likely with {percentOf(suspect.odds)} %.</span>
              )}
            </span>
            {suspect.mend && (
              <button
                type="button"
                className={i === 0 ? 'btn btn-line btn-small' : 'switch-link underline'}
                onClick={() => mend(suspect)}
              >
                {mendInWords(suspect)}
              </button>
            )}
            <button type="button" className="switch-link underline" onClick={() => setAside(suspect)}>
              set aside
            </button>
          </li>
        ))}
        {suspects.length > MOST_SHOWN && <li className="text-ink-2">and {suspects.length - MOST_SHOWN} more</li>}
      </ul>
      {assuming && (
        <p className="text-ink-2">
          All else that is said here is as it would be with {suspects.length > 1 ? 'the first of these' : 'this'} put
          right.
        </p>
      )}
    </section>
  );
}
