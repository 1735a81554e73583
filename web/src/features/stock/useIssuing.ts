/** The form that issues a card: what it begins with, and sending it. */
import { newCardSchema } from '@rawbits/api';
import { useDeferredValue, useEffect, useMemo } from 'react';
import { useWatch } from 'react-hook-form';
import { opensWords } from '../../parts/opens/opens.ts';
import { keepDraft } from '../../platform/drafts/store.ts';
import { useDraftKey } from '../../platform/drafts/useDraft.ts';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import {
  useAddCardholderMutation,
  useAddCardMutation,
  useCardsInfiniteQuery,
  useChangeCardMutation,
} from '../../platform/endpoints/cards.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { usePersonQuery } from '../../platform/endpoints/people.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { said } from '../../platform/frame/slice.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { lastDayOf } from '../../platform/words/siteDays.ts';
import type { Held } from './heldRead.ts';
import { bodyOf, EMPTY, filledBy, previewOf, printDoubt, type Typed, toldWay, type Way, waysOf } from './issuing.ts';
import { NEW_HOLDER } from './NewHolder.tsx';

export const ISSUING = 'cards being issued';
export const BY_HAND = 'by hand';

/** Cards on file that deliver the very bits which this one will, under whatever format. */
function useSameBits(bits: string | undefined) {
  const { id: site } = useSite();
  const asked = useDeferredValue(bits);
  const { data } = useCardsInfiniteQuery({ site, bits: asked! }, { skip: asked === undefined });
  return asked === undefined || asked !== bits ? [] : (data?.pages[0]?.cards ?? []);
}

/** How many days a card of a holder lives, by what their organisation or kind brings. */
function useDaysOf(holder: string | undefined): number | null {
  const { id: site } = useSite();
  const isKnown = holder !== undefined && holder !== '' && holder !== NEW_HOLDER;
  const { currentData } = usePersonQuery({ site, id: holder ?? '' }, { skip: !isKnown });
  return currentData?.cardDays ?? null;
}

export function useIssuing(held: Held | undefined, formatId: string | null) {
  const { id: site, zone } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const bits = held?.read.bits;
  const ways = useMemo(() => (bits ? waysOf(bits, formats, formatId) : []), [bits, formats, formatId]);
  const adopted = formats.filter((f) => f.adopted && f.format.spans.some((s) => s.role === 'number'));
  const told = toldWay(ways, held?.printed ?? '');
  const about = `${site} ${bits ?? BY_HAND}`;
  const [form, draft] = useKeptForm(ISSUING, about, {
    resolver: checkedAs(newCardSchema, (typed: Typed) => bodyOf(formats, zone, typed)),
    defaultValues: {
      ...EMPTY,
      printed: held?.printed ?? '',
      // Where several formats fit none is taken for the right one.
      formatId: ways.length > 1 ? '' : (formatId ?? adopted[0]?.format.id ?? ''),
      ...(told && filledBy(told)),
    },
  });
  const { control, handleSubmit, setValue, getValues, formState } = form;
  const values = useWatch({ control });
  const choose = (way: Way) => {
    for (const [name, value] of Object.entries(filledBy(way)) as [keyof Typed, string][])
      setValue(name, value, { shouldDirty: true });
  };
  // The print that is typed here tells which it is, too.
  const borneOut = ways.length > 1 ? toldWay(ways, values.printed ?? '') : undefined;
  useEffect(() => {
    if (borneOut && getValues('formatId') === '') choose(borneOut);
  });
  const format = adopted.find((f) => f.format.id === values.formatId)?.format;
  const { facility, number } = values;
  const preview = useMemo(() => previewOf(format, { facility, number }), [format, facility, number]);
  const sameBits = useSameBits(preview?.bits?.toBinary());
  // The very card is in stock already: it is issued from there, and not entered once more.
  const inStock = sameBits.find(
    (card) => card.formatId === format?.id && card.number === number && card.state === 'in stock',
  );
  const doubt = printDoubt(values.printed ?? '', values as Typed, inStock, format);
  const days = useDaysOf(values.holderId);
  useEffect(() => {
    if (days !== null && getValues('validTo') === '') setValue('validTo', lastDayOf(days, zone), { shouldDirty: true });
  }, [days, zone, getValues, setValue]);
  const [addCard, adding] = useAddCardMutation();
  const [changeCard, changing] = useChangeCardMutation();
  const [addHolder, addingHolder] = useAddCardholderMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigateFromHere();
  const submit = handleSubmit(async (card) => {
    if (getValues('holderId') === NEW_HOLDER) {
      const { newName: name, newDepartment: department } = getValues();
      const holder = await addHolder({ site, name, department });
      if (!holder.data) return;
      setValue('holderId', holder.data.id);
      card.holderId = holder.data.id;
    }
    const { holderId, state, printed, validFrom, validTo } = card;
    const { data } = inStock
      ? await changeCard({
          site,
          id: inStock.id,
          change: {
            revision: inStock.revision,
            ...{ holderId, state, validFrom, validTo },
            ...(printed && { printed }),
          },
        })
      : await addCard({ site, card });
    if (!data) return;
    draft.forget();
    dispatch(
      said(`Card ${data.number} is ${inStock ? data.state : 'on file'}; ${opensWords(data)}, load the controllers`),
    );
    navigate(`/${site}/stock/${data.id}`);
  });
  const error = adding.error ?? changing.error;
  /** What is wrong at a field: as it was typed, or as the server said. */
  const wrongAt = (field: keyof Typed) =>
    formState.errors[field]?.message ??
    (error && 'where' in error && error.where?.field === field ? error.message : undefined);
  return {
    form,
    draft,
    values,
    adopted,
    format,
    ways,
    choose,
    preview,
    sameBits,
    inStock,
    doubt,
    submit,
    wrongAt,
    error: error ?? addingHolder.error,
    busy: adding.isLoading || changing.isLoading || addingHolder.isLoading,
  };
}

export type Issuing = ReturnType<typeof useIssuing>;

/** Hands what was typed of holder, state and days on to the form of another read. */
export function useHandOn() {
  const { id: site } = useSite();
  const key = useDraftKey(site);
  return ({ holderId, newName, newDepartment, state, validFrom, validTo }: Partial<Typed>, bits: string) => {
    const typed = { holderId, newName, newDepartment, state, validFrom, validTo };
    const changed = Object.entries(typed).filter(([name, value]) => value && value !== EMPTY[name as keyof Typed]);
    if (changed.length === 0) return;
    const over = Object.fromEntries(changed.map(([name]) => [name, EMPTY[name as keyof Typed]]));
    keepDraft(ISSUING, `${key} ${bits}`, { typed: Object.fromEntries(changed), over });
  };
}
