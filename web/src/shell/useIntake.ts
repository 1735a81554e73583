/** Takes a pasted or typed text in as a read: here at once, and kept by the server. */
import { type Failure, failureOf } from '@rawbits/core/failure';
import { intake, NOTATIONS } from '@rawbits/core/intake';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';
import { arrived, kept } from '../parts/inHand/slice.ts';
import { readingsBy } from '../parts/readings/readingsBy.ts';
import { useFormatsQuery } from '../platform/endpoints/formats.ts';
import { useKeepReadMutation } from '../platform/endpoints/reads.ts';
import { useTranslationsQuery } from '../platform/endpoints/translations.ts';
import { said } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';

/** Returns the failure when the text is no read, undefined when it was taken. */
export function useIntake(): (text: string) => Failure | undefined {
  const { id, may } = useSite();
  const { data: formats } = useFormatsQuery(id);
  const { data: translations } = useTranslationsQuery(id);
  const [keepRead] = useKeepReadMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const mayKeep = may('take reads');
  return useCallback(
    (text) => {
      try {
        const lengths = [...new Set(formats?.map((f) => f.format.bits) ?? [])];
        const { readings } = intake(text, { lengths });
        const plain = readings.map((r) => ({
          notation: NOTATIONS[r.notation] as string,
          bits: r.bits.toBinary(),
          note: r.note,
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
        dispatch(said(`${first.bits.length} bits taken as ${first.notation}`));
        if (mayKeep)
          void keepRead({ site: id, bits: first.bits, notation: first.notation })
            .unwrap()
            .then(
              (read) => dispatch(kept({ bits: read.bits, id: read.id })),
              () => dispatch(said('The read could not be kept on the server; it is shown all the same.')),
            );
        void navigate(`/${id}/read`);
        return undefined;
      } catch (error) {
        return failureOf(error);
      }
    },
    [dispatch, formats, translations, id, keepRead, mayKeep, navigate],
  );
}
