/**
 * A form whose fields are drafts: what was typed in it is there again after a reload, after leaving and after a sign-in by
 * the same person. Where somebody else saves meanwhile, both changes are merged (`merge.ts`), what both changed is asked, and
 * until it is answered nothing is saved: a form is always made from what is saved now.
 */
import { type BaseSyntheticEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type DefaultValues, type FieldValues, type UseFormProps, type UseFormReturn, useForm } from 'react-hook-form';
import { type Conflict, type Merged, mergeField } from './merge.ts';
import { draftOf, keepDraft } from './store.ts';
import { useDraftKey } from './useDraft.ts';

type Fields = Record<string, unknown>;
/** What was typed, what was saved when it was, and the conflicts that were answered with what was typed. */
interface TypedOver {
  typed: Fields;
  over: Fields;
  kept?: Conflict[];
}

export interface Asked<T> extends Conflict {
  field: keyof T & string;
  keepMine(): void;
  takeTheirs(): void;
}

export interface FormDraft<T extends FieldValues> {
  /** When what is shown was last typed at, where it comes from an earlier visit. */
  since: number | undefined;
  /** What was changed here and by somebody meanwhile, and is not decided yet. */
  asked: readonly Asked<T>[];
  /** Says that it is shown what is to be decided, until the given function is called: without, what was typed stays. */
  shows(): () => void;
  /** How often it was tried to save before that was decided. */
  tries: number;
  /** What saving undoes of somebody: it was decided to keep what was typed. */
  undoes: readonly Conflict[];
  /** It was saved, or is given up: nothing of it is kept. */
  forget(): void;
  /** Given up: the form begins again. */
  afresh(): void;
}

interface Options<T> {
  /** Fields of which nothing is kept in the browser: passwords, parts of keys. */
  secret?: readonly (keyof T & string)[];
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
const NOTHING: readonly Conflict[] = [];

export function useKeptForm<T extends FieldValues, C = unknown, O = T>(
  kind: string,
  about: string,
  { secret = [], ...props }: UseFormProps<T, C, O> & Options<T> & { defaultValues: DefaultValues<T> },
): [UseFormReturn<T, C, O>, FormDraft<T>] {
  const key = useDraftKey(about);
  const form = useForm<T, C, O>(props);
  const { reset, subscribe, getValues } = form;
  const [since, setSince] = useState<number>();
  const [asked, setAsked] = useState<readonly Conflict[]>(NOTHING);
  const [undoes, setUndoes] = useState<readonly Conflict[]>(NOTHING);
  const [tries, setTries] = useState(0);
  // What is saved now, and of each field what was saved when it was last merged.
  const text = JSON.stringify(props.defaultValues);
  const base = useRef<Fields>(JSON.parse(text));
  const kept = useRef<Conflict[]>([]);
  const applied = useRef<{ key: string; text: string }>(undefined);
  const isFilling = useRef(false);
  const shown = useRef(0);
  const shows = useCallback(() => {
    shown.current++;
    return () => {
      shown.current--;
    };
  }, []);
  const unkept = secret.join(' ');

  const merged = useCallback((name: string, value: unknown, saved: Fields): Merged => {
    const was = name in base.current ? base.current[name] : saved[name];
    const { value: made, conflicts } = mergeField(name, was, value, saved[name]);
    return { value: made, conflicts: conflicts.filter((one) => !kept.current.some((other) => other.key === one.key)) };
  }, []);

  /** Keeps what differs from what is saved, and says what is to be decided. */
  const note = useCallback(
    (values: Fields) => {
      const saved = JSON.parse(text) as Fields;
      const names = Object.keys(values).filter((name) => !unkept.split(' ').includes(name));
      const typed = names.filter((name) => !same(values[name], saved[name]));
      kept.current = kept.current.filter(({ field }) => typed.includes(field));
      const pick = (from: Fields) => Object.fromEntries(typed.map((name) => [name, from[name]]));
      const draft: TypedOver = { typed: pick(values), over: pick({ ...saved, ...base.current }), kept: kept.current };
      keepDraft(kind, key, typed.length === 0 ? undefined : draft);
      const open = typed.flatMap((name) => merged(name, values[name], saved).conflicts);
      setAsked((before) => (open.length === 0 && before.length === 0 ? before : open));
      setUndoes((before) => (kept.current.length === 0 && before.length === 0 ? before : kept.current));
    },
    [kind, key, text, unkept, merged],
  );

  /** Fills the form with values over what is saved, as one step: lists of rows would keep what was reset otherwise. */
  const fill = useCallback(
    (values: Fields, saved: Fields) => {
      isFilling.current = true;
      reset(saved as T);
      if (!same(values, saved)) reset(values as T, { keepDefaultValues: true });
      isFilling.current = false;
    },
    [reset],
  );

  useEffect(() => {
    if (applied.current?.key === key && applied.current.text === text) return;
    const saved = JSON.parse(text) as Fields;
    let values = getValues() as Fields;
    // At first, and where it comes to be about something else.
    if (applied.current?.key !== key) {
      const draft = draftOf<TypedOver>(kind, key);
      if (!draft && applied.current === undefined) values = { ...saved, ...values };
      else values = { ...saved, ...draft?.value.typed };
      base.current = { ...saved, ...draft?.value.over };
      kept.current = draft?.value.kept ?? [];
      setSince(draft?.at);
    }
    applied.current = { key, text };
    const next = { ...values };
    for (const name of Object.keys(saved)) {
      const one = merged(name, values[name], saved);
      next[name] = one.value;
      // What is asked is asked again after a reload: by what it was before both changed it.
      if (one.conflicts.length === 0) base.current[name] = saved[name];
    }
    fill(next, saved);
    note(next);
  }, [kind, key, text, merged, fill, note, getValues]);

  useEffect(
    () =>
      subscribe({
        formState: { values: true },
        callback: ({ values }) => {
          if (!isFilling.current) note(values);
        },
      }),
    [subscribe, note],
  );

  const draft = useMemo((): FormDraft<T> => {
    const saved = () => JSON.parse(text) as Fields;
    const forget = () => {
      base.current = saved();
      kept.current = [];
      setSince(undefined);
      setAsked(NOTHING);
      setUndoes(NOTHING);
      setTries(0);
      keepDraft(kind, key, undefined);
    };
    /** Once nothing of a field is open it is made from what is saved now. */
    const decided = (values: Fields, field: string) => {
      if (merged(field, values[field], saved()).conflicts.length === 0) base.current[field] = saved()[field];
      fill(values, saved());
      note(values);
    };
    return {
      since,
      shows,
      undoes,
      tries,
      asked: asked.map((one) => ({
        ...one,
        field: one.field as keyof T & string,
        keepMine: () => {
          kept.current = [...kept.current, one];
          decided(getValues(), one.field);
        },
        takeTheirs: () => decided({ ...getValues(), [one.field]: one.taken }, one.field),
      })),
      forget,
      afresh: () => {
        forget();
        reset(saved() as T);
      },
    };
  }, [kind, key, since, shows, asked, undoes, tries, text, reset, getValues, merged, fill, note]);

  const { handleSubmit } = form;
  const isOpen = asked.length > 0;
  const submit = useCallback(
    (...whenSent: Parameters<typeof handleSubmit>) => {
      const send = handleSubmit(...whenSent);
      return async (event?: BaseSyntheticEvent) => {
        if (!isOpen || shown.current === 0) return send(event);
        event?.preventDefault();
        setTries((before) => before + 1);
      };
    },
    [handleSubmit, isOpen],
  );
  return [{ ...form, handleSubmit: submit as typeof handleSubmit }, draft];
}
