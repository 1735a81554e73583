/** A case being worked on: changed here at once and kept on the server, one change after the other. */
import type { Case, CaseSpecimen, Questions } from '@rawbits/api';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ApiError } from '../../platform/api/api.ts';
import { type CaseChange, useCaseQuery, useChangeCaseMutation } from '../../platform/endpoints/cases.ts';
import { type BothChanged, mergeSpecimens, typedOver, withMine } from './mergeSpecimens.ts';
import { spliceOf } from './spliceOf.ts';
import { takenBack } from './takenBack.ts';

interface Undoable {
  what: string;
  back: () => void;
}
/** So many changes can be taken back, one after the other. */
const MOST_UNDONE = 50;

type Fields = Omit<CaseChange, 'revision' | 'splice'>;

export function useCase(site: string, id: string) {
  const { data, error, refetch } = useCaseQuery({ site, id });
  const [send] = useChangeCaseMutation();
  const [shown, setShown] = useState<Case>();
  const [failure, setFailure] = useState<ApiError>();
  const [both, setBoth] = useState<readonly BothChanged[]>([]);
  const latest = useRef<Case | undefined>(undefined);
  const waiting = useRef<Fields | undefined>(undefined);
  const saving = useRef(false);
  /** The specimens as the server last had them from or for us: what a merge begins from. */
  const base = useRef<CaseSpecimen[]>([]);
  useEffect(() => {
    // What is shown may be ahead of the server; only a case not shown yet, or a newer one, replaces it.
    if (data && !saving.current && (!latest.current || data.revision > latest.current.revision)) {
      latest.current = data;
      base.current = data.specimens;
      setShown(data);
    }
  }, [data]);

  const flush = useCallback(async () => {
    if (saving.current) return;
    saving.current = true;
    while (waiting.current && latest.current) {
      const { specimens, ...fields } = waiting.current;
      waiting.current = undefined;
      const splice = specimens && spliceOf(base.current, specimens);
      const sent = { ...fields, ...(splice && { splice }), revision: latest.current.revision };
      const result = await send({ site, id, change: sent });
      if (result.data) {
        base.current = specimens ?? base.current;
        latest.current = { ...latest.current, revision: result.data.revision };
      } else {
        setFailure(result.error as ApiError);
        if ((result.error as ApiError).code === 'changed-meanwhile') {
          const fresh = await refetch();
          const merged = fresh.data && mergeSpecimens(base.current, latest.current.specimens, fresh.data.specimens);
          if (merged) {
            latest.current = { ...fresh.data!, specimens: merged.specimens };
            base.current = fresh.data!.specimens;
            setShown(latest.current);
            if (merged.both.length > 0) setBoth((before) => [...before, ...merged.both]);
            // Both changes stand together: mine goes out again, made from theirs.
            setFailure(undefined);
            waiting.current = { ...fields, specimens: merged.specimens };
            continue;
          }
        }
        break;
      }
    }
    saving.current = false;
  }, [send, refetch, site, id]);

  const change = useCallback(
    (make: (now: Case) => Fields) => {
      if (!latest.current) return;
      const fields = make(latest.current);
      latest.current = { ...latest.current, ...fields } as Case;
      setShown(latest.current);
      setFailure(undefined);
      waiting.current = { ...waiting.current, ...fields };
      void flush();
    },
    [flush],
  );
  const setSpecimens = useCallback(
    (make: (now: CaseSpecimen[]) => CaseSpecimen[]) => change((now) => ({ specimens: make(now.specimens) })),
    [change],
  );
  /** Somebody typed something else for the same specimen: theirs is kept until it is decided. */
  const decide = useCallback(
    (one: BothChanged, keepsMine: boolean) => {
      if (keepsMine) setSpecimens((now) => withMine(now, one));
      setBoth((before) => before.filter((other) => other !== one));
    },
    [setSpecimens],
  );
  /** A print that was typed for a specimen as it was: it is put there, or asked about where somebody typed another. */
  const typed = useCallback(
    (was: CaseSpecimen, printed: string) => {
      const put = typedOver(latest.current?.specimens ?? [], was, printed);
      if ('specimens' in put) setSpecimens(() => put.specimens);
      else setBoth((before) => [...before, put]);
    },
    [setSpecimens],
  );
  const [done, setDone] = useState<Undoable[]>([]);
  /** A change of the specimens that can be taken back, the last first: those that it changed or took out are as they were, what came since stays. */
  const undoable = useCallback(
    (what: string, make: (now: CaseSpecimen[]) => CaseSpecimen[]) => {
      const before = latest.current?.specimens ?? [];
      setSpecimens(make);
      const after = latest.current?.specimens ?? [];
      const back = () => {
        setSpecimens((now) => takenBack(before, after, now));
        setDone((all) => all.slice(0, -1));
      };
      setDone((all) => [...all.slice(1 - MOST_UNDONE), { what, back }]);
    },
    [setSpecimens],
  );
  const forget = useCallback(() => setDone([]), []);
  const setQuestions = useCallback(
    (questions: Partial<Questions>) => change((now) => ({ questions: { ...now.questions, ...questions } })),
    [change],
  );
  /** The revision as it stands once everything is kept; for what is made of the case. */
  const revision = useCallback(async () => {
    for (let i = 0; saving.current && i < 100; i++) await new Promise((resolve) => setTimeout(resolve, 20));
    return latest.current?.revision ?? 0;
  }, []);
  const reload = useCallback(async () => {
    const fresh = await refetch();
    if (fresh.data) {
      latest.current = fresh.data;
      setShown(fresh.data);
    }
  }, [refetch]);
  return {
    shown,
    error,
    failure,
    both,
    decide,
    typed,
    setSpecimens,
    undoable,
    undone: done.at(-1),
    forget,
    setQuestions,
    change,
    revision,
    reload,
  };
}
export type WorkingCase = ReturnType<typeof useCase>;
