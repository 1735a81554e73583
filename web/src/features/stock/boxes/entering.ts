/** The form that enters a box: what it begins with, what is sent of it, and the steps until the box is on file. */
import { type BoxReview, type NamedTranslation, newBoxSchema, type SiteFormat } from '@rawbits/api';
import { othersOf, type PrintRule } from '@rawbits/core/box';
import type { Format } from '@rawbits/core/format';
import { useEffect, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useEnterBoxMutation, useReviewBoxMutation } from '../../../platform/endpoints/boxes.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { useTranslationsQuery } from '../../../platform/endpoints/translations.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { carriesFacility } from '../issuing.ts';

const ENTERING = 'boxes being entered';

const EMPTY = {
  name: '',
  formatId: '',
  facility: '',
  first: '',
  last: '',
  print: 'number' as 'number' | 'up' | 'down' | 'translation',
  firstPrint: '',
  /** The translation that leads to the print. */
  printBy: '',
  values: {} as Record<string, string>,
  state: 'in stock' as 'in stock' | 'suspended',
  blanks: false,
  notes: '',
};
export type Typed = typeof EMPTY;

/** What is sent; a box without a name is called by its numbers. */
export function boxFrom(format: Format | undefined, typed: Typed, translations: readonly NamedTranslation[] = []) {
  const { formatId, first, last, state, blanks, notes } = typed;
  const facility = carriesFacility(format) ? typed.facility : null;
  const others = format ? othersOf(format) : [];
  return {
    name: typed.name.trim() || `${facility ? `${facility}: ` : ''}${first} – ${last}`,
    ...{ formatId, facility, first, last, state, blanks, notes },
    print: printFrom(typed, translations),
    values: Object.fromEntries(others.map((label) => [label, typed.values[label] ?? ''])),
  };
}

function printFrom({ print, firstPrint, printBy }: Typed, translations: readonly NamedTranslation[]): PrintRule {
  if (print === 'up' || print === 'down') return { kind: 'run', first: firstPrint, order: print };
  const by = print === 'translation' ? (translations.find(({ id }) => id === printBy) ?? translations[0]) : undefined;
  return by ? { kind: 'translation', translation: by.translation } : { kind: 'number' };
}

const NUMBER = /^\d{1,160}$/;

/** How many cards lie between two numbers as they are typed; undefined while they are none. */
export function countTyped({ first, last }: Pick<Typed, 'first' | 'last'>): bigint | undefined {
  if (!NUMBER.test(first) || !NUMBER.test(last)) return undefined;
  const count = BigInt(last) - BigInt(first) + 1n;
  return count > 0n ? count : undefined;
}

/** The last number where a count is typed; undefined while either is none. */
export const lastFrom = (first: string, count: string): string | undefined =>
  NUMBER.test(first) && /^\d{1,6}$/.test(count) && Number(count) > 0
    ? (BigInt(first) + BigInt(count) - 1n).toString()
    : undefined;

const usableIn = (formats: readonly SiteFormat[]): SiteFormat[] =>
  formats.filter((f) => f.adopted && f.format.spans.some(({ role }) => role === 'number'));

export function useEntering(given: URLSearchParams, onWork: (id: string) => void) {
  const { id: site } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const usable = usableIn(formats);
  const { data: translations = [] } = useTranslationsQuery(site);
  const formatById = (id: string) => usable.find((f) => f.format.id === id)?.format;
  const [form, draft] = useKeptForm(ENTERING, `${site} ${given.get('from') ?? ''}`, {
    resolver: checkedAs(newBoxSchema, (typed: Typed) => boxFrom(formatById(typed.formatId), typed, translations)),
    defaultValues: {
      ...EMPTY,
      formatId: given.get('format') ?? usable[0]?.format.id ?? '',
      facility: given.get('facility') ?? '',
      first: given.get('from') ?? '',
      last: given.get('to') ?? '',
    },
  });
  const values = { ...EMPTY, ...useWatch({ control: form.control }) } as Typed;
  const [ask, asking] = useReviewBoxMutation();
  const [enter, entering] = useEnterBoxMutation();
  const [reviewed, setReviewed] = useState<{ of: string; review: BoxReview }>();
  const typed = JSON.stringify(values);
  // What was reviewed is what is entered: a change of the form is reviewed anew.
  const review = reviewed?.of === typed ? reviewed.review : undefined;
  const { reset } = asking;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was wrong of other values is no longer
  useEffect(() => reset(), [typed, reset]);
  const submit = form.handleSubmit(async (box) => {
    const { data } = await ask({ site, box });
    if (data) setReviewed({ of: JSON.stringify({ ...EMPTY, ...form.getValues() }), review: data });
  });
  const take = form.handleSubmit(async (box) => {
    if (!review) return;
    const leaveOut = review.onFile.cards > 0;
    const { data } = await enter({ site, box: { ...box, seen: review.seen, leaveOut } });
    if (data) onWork(data.id);
    else setReviewed(undefined);
  });
  const error = asking.error ?? entering.error;
  const wrongAt = (field: keyof Typed) =>
    form.formState.errors[field]?.message?.toString() ??
    (error && 'where' in error && error.where?.field === field ? error.message : undefined);
  return {
    ...{ form, draft, values, usable, translations, review, submit, take, wrongAt, error },
    format: formatById(values.formatId),
    busy: asking.isLoading || entering.isLoading,
  };
}
export type Entering = ReturnType<typeof useEntering>;
