/** All cardholders as a sheet, fetched page by page; as it comes in again. */
import type { WrittenPerson } from '@rawbits/api';
import { useRef, useState } from 'react';
import { useLazyPeopleOutQuery } from '../../../platform/endpoints/people.ts';
import { toCsv } from '../../../platform/files/csv.ts';
import { download } from '../../../platform/files/download.ts';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';
import { sheetOfPeople } from '../sheet/personRows.ts';

export function AsSheet() {
  const { id: site } = useSite();
  const dispatch = useAppDispatch();
  const [ask] = useLazyPeopleOutQuery();
  const [got, setGot] = useState<number>();
  const isStopped = useRef(false);
  const fetchAll = async () => {
    isStopped.current = false;
    const people: WrittenPerson[] = [];
    for (let after: string | undefined; ; ) {
      setGot(people.length);
      const { data } = await ask({ site, after, limit: 1000 });
      if (!data || isStopped.current) {
        if (!data) dispatch(said('The cardholders could not be fetched. Try again.'));
        break;
      }
      people.push(...data.people);
      if (data.next === null) {
        download('cardholders.csv', toCsv(sheetOfPeople(people)), 'text/csv');
        break;
      }
      after = data.next;
    }
    setGot(undefined);
  };
  return got === undefined ? (
    <button type="button" className="btn btn-line" onClick={() => void fetchAll()}>
      As a sheet (CSV)
    </button>
  ) : (
    <button
      type="button"
      className="btn btn-line"
      onClick={() => {
        isStopped.current = true;
      }}
    >
      {got.toLocaleString('en')} fetched … Stop
    </button>
  );
}
