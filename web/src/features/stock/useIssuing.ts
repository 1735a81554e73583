/** The form that issues a card: what it begins with, and sending it. */
import { newCardSchema } from '@rawbits/api';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import type { ReadInHand } from '../../parts/inHand/slice.ts';
import { useAddCardholderMutation, useAddCardMutation } from '../../platform/endpoints/cards.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { bodyOf, EMPTY, fromRead, type Typed } from './issuing.ts';
import { NEW_HOLDER } from './NewHolder.tsx';

/** The read that the form begins with, and the print typed for it; later ones do not replace it. */
function useHeldRead(from: 'read' | 'latest' | null) {
  const { inHand, latest, printed } = useAppSelector((state) => state.read);
  const [held, setHeld] = useState<{ read: ReadInHand; printed: string; latest: ReadInHand | null }>();
  const offered = from === 'read' ? inHand : from === 'latest' ? latest : null;
  const now = offered && { read: offered, printed: offered.bits === inHand?.bits ? printed : '', latest };
  // A page that has just been loaded has no read yet: the first one is what the form begins with.
  useEffect(() => {
    if (!held && now) setHeld(now);
  }, [held, now]);
  const later = held && latest && latest !== held.latest && latest.bits !== held.read.bits ? latest : undefined;
  return { held, later, take: () => later && setHeld({ read: later, printed: '', latest: later }) };
}

export function useIssuing(from: 'read' | 'latest' | null, formatId: string | null) {
  const { id: site, zone } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const { held, later, take } = useHeldRead(from);
  const form = useForm({
    resolver: checkedAs(newCardSchema, (typed: Typed) => bodyOf(formats, zone, typed)),
    defaultValues: EMPTY,
  });
  const { control, handleSubmit, setValue, reset, getValues, formState } = form;
  const values = useWatch({ control });
  const fit = useMemo(() => fromRead(held?.read.bits, formats, formatId), [held, formats, formatId]);
  const adopted = formats.filter((f) => f.adopted && f.format.spans.some((s) => s.role === 'number'));
  const firstFormat = adopted[0]?.format.id;
  // A read fills the form in once; what is typed over it stays, whatever is fetched again.
  const filledFrom = useRef<ReadInHand>(undefined);
  useEffect(() => {
    if (fit && held) {
      if (filledFrom.current === held.read) return;
      filledFrom.current = held.read;
      const { facility = '', number } = fit.values;
      reset({ ...getValues(), formatId: fit.format.id, facility, number: number!, printed: held.printed });
    } else if (firstFormat && !getValues('formatId')) setValue('formatId', formatId ?? firstFormat);
  }, [fit, held, firstFormat, formatId, getValues, reset, setValue]);
  const [addCard, adding] = useAddCardMutation();
  const [addHolder, addingHolder] = useAddCardholderMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const submit = handleSubmit(async (card) => {
    if (getValues('holderId') === NEW_HOLDER) {
      const { newName: name, newDepartment: department } = getValues();
      const holder = await addHolder({ site, name, department });
      if (!holder.data) return;
      setValue('holderId', holder.data.id);
      card.holderId = holder.data.id;
    }
    const added = await addCard({ site, card });
    if (!added.data) return;
    dispatch(said(`Card ${added.data.number} is on file; load the doors to let it in`));
    void navigate(`/${site}/stock/${added.data.id}`);
  });
  const { error } = adding;
  /** What is wrong at a field: as it was typed, or as the server said. */
  const wrongAt = (field: keyof Typed) =>
    formState.errors[field]?.message ??
    (error && 'where' in error && error.where?.field === field ? error.message : undefined);
  return {
    form,
    values,
    adopted,
    format: adopted.find((f) => f.format.id === values.formatId)?.format,
    held,
    later,
    take,
    fit,
    submit,
    wrongAt,
    error: error ?? addingHolder.error,
    busy: adding.isLoading || addingHolder.isLoading,
  };
}
