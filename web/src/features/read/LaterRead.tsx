/** A read that came in while a print was being typed for the one in hand: it waits here to be taken. */

import { chosen, whence } from '../../parts/inHand/slice.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';

export function LaterRead() {
  const clock = useClock();
  const { latest, waiting } = useAppSelector((state) => state.read);
  const dispatch = useAppDispatch();
  if (!latest || !waiting) return null;
  return (
    <p className="flex flex-wrap items-baseline gap-x-3" role="status" data-testid="later-read">
      <span>
        A later read waits: {latest.bits.length} bits {whence(latest.from)}, {clock(latest.at)}. This one stays until
        you take the other.
      </span>
      <button type="button" className="switch-link underline" onClick={() => dispatch(chosen(latest))}>
        take it
      </button>
    </p>
  );
}
