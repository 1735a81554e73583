/** Takes a pasted or typed text in as a read: here at once, and kept by the server. */
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { type IntakeOptions, intake, LONGEST_PASTE, NOTATIONS, readsIn, type TakenLine } from '@rawbits/core/intake';
import { useCallback, useMemo } from 'react';
import { useNavigate } from 'react-router';
import { arrived, kept } from '../parts/inHand/slice.ts';
import { readingsBy } from '../parts/readings/readingsBy.ts';
import type { ApiError } from '../platform/api/api.ts';
import { useFormatsQuery } from '../platform/endpoints/formats.ts';
import { useKeepReadMutation } from '../platform/endpoints/reads.ts';
import { useTranslationsQuery } from '../platform/endpoints/translations.ts';
import { said } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';
import { newKey, useLetWait, type WaitingRead, waitsFor } from './waitingReads.ts';

/** What became of a text: taken as a read, refused, or several lines that are looked through first. */
export type TakenIn = { failure?: Failure; several?: Several };
export interface Several {
  lines: TakenLine[];
  /** Reads one line anew, as it was put right. */
  readAgain: (text: string) => TakenLine[];
}

/** What a text is tried with: the lengths in use at the site, its formats, and those of the library. */
function useOptions(): IntakeOptions {
  const { id } = useSite();
  const { data: formats } = useFormatsQuery(id);
  return useMemo(() => {
    const own = (formats ?? []).map(({ format }) => format);
    const others = CATALOGUE.filter((format) => !own.some(({ id: known }) => known === format.id));
    const inUse = (formats ?? []).flatMap(({ adopted, format }) => (adopted ? [format.bits] : []));
    return { lengths: [...new Set(inUse)], formats: [...own, ...others] };
  }, [formats]);
}

export function useIntake(): (text: string) => TakenIn {
  const { id, may } = useSite();
  const { data: translations } = useTranslationsQuery(id);
  const options = useOptions();
  const [keepRead] = useKeepReadMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const letWait = useLetWait();
  const keep = useCallback(
    async (read: WaitingRead) => {
      const { data, error } = await keepRead({ site: id, ...read });
      if (data) return void dispatch(kept({ bits: data.bits, id: data.id }));
      if (waitsFor(error as ApiError)) letWait(read);
      else dispatch(said('The read could not be kept on the server; it is shown all the same.'));
    },
    [dispatch, id, keepRead, letWait],
  );
  const mayKeep = may('take reads');
  return useCallback(
    (text) => {
      try {
        const several = text.length <= LONGEST_PASTE ? readsIn(text, options) : [];
        if (several.length > 1) return { several: { lines: several, readAgain: (line) => readsIn(line, options) } };
        const { readings, passedOver } = intake(text, options);
        const passed = passedOver === '' ? '' : `Passed over: ${passedOver}`;
        const plain = readings.map((r) => ({
          notation: NOTATIONS[r.notation] as string,
          bits: r.bits.toBinary(),
          note: [r.note, passed].filter(Boolean).join(' '),
          ...(r.pulses && { pulses: r.pulses }),
        }));
        const shown = [...plain, ...readingsBy(translations ?? [], text)];
        const [first] = shown as [(typeof shown)[number]];
        performance.mark('read-taken');
        dispatch(
          arrived({
            bits: first.bits,
            from: `pasted, ${first.notation}`,
            at: new Date().toISOString(),
            id: null,
            readings: shown,
          }),
        );
        dispatch(said(`${first.bits.length} bits taken as ${first.notation}`, true));
        if (mayKeep) void keep({ bits: first.bits, notation: first.notation, key: newKey() });
        void navigate(`/${id}/read`);
        return {};
      } catch (error) {
        return { failure: failureOf(error) };
      }
    },
    [dispatch, options, translations, id, keep, mayKeep, navigate],
  );
}
