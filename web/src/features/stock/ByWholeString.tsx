/** A read that no format at the site reads: held by its whole string, until its format is found. */
import { wholeLayout } from '@rawbits/core/format';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import type { Held } from './heldRead.ts';
import { useFormatOf } from './useFormatOf.ts';
import type { Issuing } from './useIssuing.ts';

export function ByWholeString({ held: { read }, issuing }: { held: Held; issuing: Issuing }) {
  const { takeUp, mayTakeUp, busy, error } = useFormatOf();
  const { bits } = read;
  const hold = async () => {
    const id = await takeUp(wholeLayout(bits.length), `${bits.length} bits, the whole string`);
    if (id === undefined) return;
    const { setValue } = issuing.form;
    setValue('formatId', id, { shouldDirty: true });
    setValue('facility', '', { shouldDirty: true });
    setValue('number', BigInt(`0b${bits}`).toString(), { shouldDirty: true });
  };
  return (
    <div className="flex flex-col gap-2">
      <p className="text-signal">This read fits no format in use at this site.</p>
      {mayTakeUp && (
        <p>
          <button type="button" className="btn btn-line" disabled={busy} onClick={() => void hold()}>
            Hold it by its whole string
          </button>{' '}
          <span className="text-ink-2">
            All {bits.length} bits are its number until a format is found, which then gives it its own. Or accept its
            format at a door first, or fill in by hand.
          </span>
        </p>
      )}
      <FailureNote failure={error} />
    </div>
  );
}
