import { readingChosen } from '../../parts/inHand/slice.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';

/** Which notation was taken, and which others were possible: one click reads the same text otherwise. */
export function Readings() {
  const inHand = useAppSelector((state) => state.read.inHand);
  const dispatch = useAppDispatch();
  if (!inHand) return null;
  return (
    <p className="flex flex-wrap items-baseline gap-x-3">
      <span>The text can be read as</span>
      {inHand.readings.map((reading) => {
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
      <span className="text-ink-2">{inHand.readings.find((r) => inHand.bits === r.bits)?.note}</span>
    </p>
  );
}
