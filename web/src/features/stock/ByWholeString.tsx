/** A read that no format at the site reads: held by its whole string, until its format is found. */
import { wholeLayout } from '@rawbits/core/format';
import { useEffect, useState } from 'react';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useFormatOf } from './useFormatOf.ts';
import type { Issuing } from './useIssuing.ts';

/** `bits` of the read that the form began with. */
export function useWholeString(bits: string | undefined, { adopted, form: { setValue } }: Issuing) {
  const { takeUp, ...rest } = useFormatOf();
  const [coming, setComing] = useState<string>();
  // It can be chosen once it is among those that are in use.
  const isHere = coming !== undefined && adopted.some(({ format }) => format.id === coming);
  useEffect(() => {
    if (!isHere || bits === undefined) return;
    setValue('formatId', coming!, { shouldDirty: true });
    setValue('facility', '', { shouldDirty: true });
    setValue('number', BigInt(`0b${bits}`).toString(), { shouldDirty: true });
    setComing(undefined);
  }, [isHere, coming, bits, setValue]);
  const hold = async (): Promise<void> => {
    if (bits) setComing(await takeUp(wholeLayout(bits.length), `${bits.length} bits, the whole string`));
  };
  return { ...rest, hold };
}

interface Props {
  length: number;
  holding: ReturnType<typeof useWholeString>;
}

export function ByWholeString({ length, holding: { hold, mayTakeUp, busy, error } }: Props) {
  return (
    <div className="flex flex-col gap-2">
      <p className="text-signal">This read fits no format in use at this site.</p>
      {mayTakeUp && (
        <p>
          <button type="button" className="btn btn-line" disabled={busy} onClick={() => void hold()}>
            Hold it by its whole string
          </button>{' '}
          <span className="text-ink-2">
            All {length} bits are its number until a format is found, which then gives it its own. Or accept its format
            at a door first, or fill in by hand.
          </span>
        </p>
      )}
      <FailureNote failure={error} />
    </div>
  );
}
