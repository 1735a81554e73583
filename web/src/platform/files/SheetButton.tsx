/** A list as a sheet to keep: fetched page by page, which may be stopped. */
import type { ReactNode } from 'react';
import { said } from '../frame/slice.ts';
import { useAllPages } from '../hooks/useAllPages.ts';
import { useAppDispatch } from '../state/hooks.ts';
import { toCsv } from './csv.ts';
import { download } from './download.ts';

interface Props<T> {
  /** The name of the file, without its ending. */
  name: string;
  page: (after: string | undefined) => Promise<{ rows: readonly T[]; next: string | null } | undefined>;
  sheetOf: (all: readonly T[]) => string[][];
  children: ReactNode;
}

export function SheetButton<T>({ name, page, sheetOf, children }: Props<T>) {
  const dispatch = useAppDispatch();
  const { got, fetchAll, stop } = useAllPages(page, () =>
    dispatch(said('The list could not be fetched whole: nothing was kept. Try again.')),
  );
  if (got !== undefined)
    return (
      <button type="button" className="btn btn-line" onClick={stop}>
        {got.toLocaleString('en')} fetched … Stop
      </button>
    );
  const keep = async () => {
    const all = await fetchAll();
    if (all) download(`${name}.csv`, toCsv(sheetOf(all)), 'text/csv');
  };
  return (
    <button type="button" className="btn btn-line" onClick={() => void keep()}>
      {children}
    </button>
  );
}
