/** All pages of a list, one after the other, until it ends or somebody stops it. */
import { useRef, useState } from 'react';

interface Page<T> {
  rows: readonly T[];
  next: string | null;
}

export interface AllPages<T> {
  /** How many rows are here; undefined while nothing is being fetched. */
  got: number | undefined;
  /** Undefined where it was stopped, or a page could not be fetched (`onFailed` is told). */
  fetchAll(): Promise<T[] | undefined>;
  stop(): void;
}

export function useAllPages<T>(
  page: (after: string | undefined) => Promise<Page<T> | undefined>,
  onFailed: () => void,
): AllPages<T> {
  const [got, setGot] = useState<number>();
  const isStopped = useRef(false);
  const fetchAll = async (): Promise<T[] | undefined> => {
    isStopped.current = false;
    const all: T[] = [];
    setGot(0);
    try {
      for (let after: string | undefined; ; ) {
        const answer = await page(after);
        if (isStopped.current) return undefined;
        if (!answer) {
          onFailed();
          return undefined;
        }
        all.push(...answer.rows);
        setGot(all.length);
        if (answer.next === null) return all;
        after = answer.next;
      }
    } finally {
      setGot(undefined);
    }
  };
  return {
    got,
    fetchAll,
    stop: () => {
      isStopped.current = true;
    },
  };
}
