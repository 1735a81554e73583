/** What two people typed for one specimen: theirs is kept until it is decided, and mine is not lost. */
import type { CaseSpecimen } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { useWhoSaved } from '../../platform/drafts/useWhoSaved.ts';
import type { WorkingCase } from './useCase.ts';

const NAMES = { printed: 'print', facility: 'facility code', group: 'group', note: 'note' } as const;

function inWords(specimen: CaseSpecimen | null, other: CaseSpecimen | null): string {
  if (!specimen) return 'taken out';
  const fields = Object.entries(NAMES) as [keyof typeof NAMES & keyof CaseSpecimen, string][];
  const differing = fields.filter(([field]) => specimen[field] !== other?.[field]);
  const words = differing.map(([field, name]) => `${name} ${specimen[field] ?? 'none'}`);
  if (Boolean(specimen.setAside) !== Boolean(other?.setAside))
    words.push(specimen.setAside ? 'excluded' : 'not excluded');
  return words.join(', ') || 'kept';
}

export function BothTyped({ working: { both, decide, shown } }: { working: WorkingCase }) {
  const who = useWhoSaved(both.length > 0 ? `case ${shown?.name ?? ''}` : undefined);
  if (both.length === 0) return null;
  return (
    <div role="alert" className="border-l-4 border-signal pl-3" data-testid="both">
      <p>{who} changed the same specimens as you. Theirs are kept until you decide.</p>
      {both.map((one) => (
        <p key={JSON.stringify(one)}>
          <span className="font-mono">{Bits.fromBinary((one.mine ?? one.theirs)!.bits).toHex()}</span>: yours is{' '}
          <strong>{inWords(one.mine, one.theirs)}</strong>, theirs is <strong>{inWords(one.theirs, one.mine)}</strong>.{' '}
          <button type="button" className="switch-link underline" onClick={() => decide(one, true)}>
            Use yours
          </button>{' '}
          <button type="button" className="switch-link underline" onClick={() => decide(one, false)}>
            Keep theirs
          </button>
        </p>
      ))}
    </div>
  );
}
