import { useState } from 'react';
import { readingChosen } from '../../parts/inHand/slice.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';

/** So many are looked at at once. */
const FEW = 6;

/** Which notation was taken, and which others were possible: one click reads the same text otherwise. */
export function Readings() {
  const inHand = useAppSelector((state) => state.read.inHand);
  const dispatch = useAppDispatch();
  const [all, setAll] = useState(false);
  if (!inHand) return null;
  const { readings } = inHand;
  const shown = all ? readings : readings.slice(0, FEW);
  return (
    <p className="flex flex-wrap items-baseline gap-x-3">
      <span>The text can be read as</span>
      {shown.map((reading) => {
        const taken = inHand.from === `pasted, ${reading.notation}` && inHand.bits === reading.bits;
        return (
          <button
            key={`${reading.notation} ${reading.bits}`}
            type="button"
            className="switch-link"
            aria-pressed={taken}
            title={reading.note}
            onClick={() => dispatch(readingChosen(reading))}
          >
            {reading.notation}, {reading.bits.length} bits
          </button>
        );
      })}
      {shown.length < readings.length && (
        <button type="button" className="switch-link" onClick={() => setAll(true)}>
          {readings.length - shown.length} more …
        </button>
      )}
      <span className="text-ink-2">{inHand.readings.find((r) => inHand.bits === r.bits)?.note}</span>
    </p>
  );
}
