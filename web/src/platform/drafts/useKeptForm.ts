/**
 * A form whose fields are drafts: what was typed in it is there again after a reload, after leaving and after a sign-in by
 * the same person. Where somebody else saves meanwhile, both are kept: what was typed stands in the field, what was saved
 * stands beside it.
 */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import {
  type DefaultValues,
  type FieldValues,
  type Path,
  type PathValue,
  type UseFormProps,
  type UseFormReturn,
  useForm,
} from 'react-hook-form';
import { draftOf, keepDraft } from './store.ts';
import { useDraftKey } from './useDraft.ts';

type Fields = Record<string, unknown>;
/** What was typed, and what stood there before it was. */
interface TypedOver {
  typed: Fields;
  over: Fields;
}

export interface FormDraft<T extends FieldValues> {
  /** When what is shown was last typed at, where it comes from an earlier visit. */
  since: number | undefined;
  /** Fields that were typed in here and saved otherwise by somebody meanwhile: what was saved. */
  theirs: Partial<T>;
  takeTheirs(field: keyof T & string): void;
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

export function useKeptForm<T extends FieldValues, C = unknown, O = T>(
  kind: string,
  about: string,
  { secret = [], ...props }: UseFormProps<T, C, O> & Options<T> & { defaultValues: DefaultValues<T> },
): [UseFormReturn<T, C, O>, FormDraft<T>] {
  const key = useDraftKey(about);
  const form = useForm<T, C, O>(props);
  const { setValue, reset, subscribe, getValues } = form;
  const [since, setSince] = useState<number>();
  const over = useRef<Fields>({});
  // What the server has now; what was typed over it stays in its field.
  const saved = props.defaultValues as Fields;
  const text = JSON.stringify(saved);
  const first = useRef(text);
  const unkept = secret.join(' ');
  const [theirs, setTheirs] = useState<Partial<T>>({});

  const typedNow = useCallback(
    (values: Fields): Fields => {
      const from = JSON.parse(text) as Fields;
      const kept = Object.keys(values).filter((name) => !unkept.split(' ').includes(name));
      return Object.fromEntries(kept.filter((name) => !same(values[name], from[name])).map((n) => [n, values[n]]));
    },
    [text, unkept],
  );
  /** Keeps what differs from what is saved, and says where somebody saved otherwise meanwhile. */
  const note = useCallback(
    (values: Fields) => {
      const from = JSON.parse(text) as Fields;
      const typed = typedNow(values);
      over.current = Object.fromEntries(
        Object.keys(typed).map((name) => [name, name in over.current ? over.current[name] : from[name]]),
      );
      keepDraft(kind, key, Object.keys(typed).length === 0 ? undefined : { typed, over: over.current });
      const otherwise = Object.keys(typed).filter((name) => !same(over.current[name], from[name]));
      setTheirs(Object.fromEntries(otherwise.map((name) => [name, from[name]])) as Partial<T>);
    },
    [kind, key, text, typedNow],
  );

  // Before anything is kept under the same key.
  useEffect(() => {
    const kept = draftOf<TypedOver>(kind, key);
    if (!kept) return;
    over.current = kept.value.over;
    for (const [name, value] of Object.entries(kept.value.typed))
      setValue(name as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
    setSince(kept.at);
  }, [kind, key, setValue]);

  useEffect(() => {
    if (first.current !== text) {
      const typed = Object.keys(over.current).map((name) => [name, getValues()[name]] as const);
      first.current = text;
      reset(JSON.parse(text) as T);
      for (const [name, value] of typed)
        setValue(name as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
      note(getValues());
    } else if (Object.keys(over.current).length > 0) note(getValues());
    return subscribe({ formState: { values: true }, callback: ({ values }) => note(values) });
  }, [text, note, reset, setValue, subscribe, getValues]);

  const draft = useMemo((): FormDraft<T> => {
    const forget = () => {
      over.current = {};
      setSince(undefined);
      setTheirs({});
      keepDraft(kind, key, undefined);
    };
    return {
      since,
      theirs,
      takeTheirs: (field) => {
        const from = JSON.parse(text) as Fields;
        delete over.current[field];
        setValue(field as Path<T>, from[field] as PathValue<T, Path<T>>, { shouldDirty: true });
      },
      forget,
      afresh: () => {
        forget();
        reset(JSON.parse(text) as T);
      },
    };
  }, [kind, key, since, theirs, text, setValue, reset]);
  return [form, draft];
}
