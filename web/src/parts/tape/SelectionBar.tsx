/** Below the tape: what is selected, as hex and decimal, each to copy; the whole tape when nothing is. */
import type { Bits } from '@rawbits/core/bits';
import { CopyButton } from '../copy/CopyButton.tsx';
import { boundsOf, counted, type Selection } from './selection.ts';
import { TapeLegend } from './TapeLegend.tsx';

export function SelectionBar({
  bits,
  selection,
  countFrom,
}: {
  bits: Bits;
  selection: Selection | null;
  countFrom: 'first' | 'last';
}) {
  const [from, to] = selection ? boundsOf(selection) : [1, bits.length];
  const part = bits.slice(from, to);
  const name = (p: number) => counted(p, bits.length, countFrom);
  const what = selection
    ? from === to
      ? `bit ${name(from)}`
      : `bits ${name(from)}-${name(to)} (${to - from + 1})`
    : `all ${bits.length} bits`;
  const texts = [
    ['binary', part.toBinary()],
    ['hex', part.toHex('right')],
    ['decimal', part.toDecimal()],
  ] as const;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-ink-2" aria-live="polite">
      <span>
        {what}
        {!selection && <span className="max-sm:hidden"> · drag or arrow keys select</span>}
      </span>
      {texts.map(([kind, text]) => (
        <span key={kind} className="flex min-w-0 items-center gap-1">
          {kind} {kind !== 'binary' && <span className="max-w-56 truncate font-mono text-base-content">{text}</span>}
          <CopyButton text={text} what={`${what} as ${kind}`} />
        </span>
      ))}
      <TapeLegend />
    </div>
  );
}
