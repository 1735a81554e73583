/** People from a sheet: pasted or chosen, its columns named, reviewed row by row, entered. */
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { fromCsv } from '../../../platform/files/csv.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { StockTabs } from '../StockTabs.tsx';
import { Columns } from './Columns.tsx';
import { Given } from './Given.tsx';
import { guessedPeople, PERSON_COLUMNS, type PersonColumn, peopleIn, peopleSheetOf } from './personRows.ts';
import { ReviewingPeople } from './ReviewingPeople.tsx';
import type { Mapping } from './table.ts';

export function PeopleSheetScreen() {
  const { id: site, may } = useSite();
  const [text = '', setText] = useDraft<string>('sheets of people', site);
  const [name, setName] = useState('');
  const sheet = useMemo(() => peopleSheetOf(text === '' ? [] : fromCsv(text)), [text]);
  const [chosen, setChosen] = useDraft<Mapping<PersonColumn>>(
    'columns of sheets',
    `${site} people ${sheet.headings.join('\t')}`,
  );
  const mapping = useMemo(() => chosen ?? guessedPeople(sheet), [chosen, sheet]);
  const { rows, bad } = useMemo(() => peopleIn(sheet, mapping), [sheet, mapping]);
  const take = (next: string, called = '') => {
    setText(next);
    setName(called);
  };
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 overflow-auto p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
        <Link to={`/${site}/stock/people`} className="btn btn-line ml-auto">
          Back to the cardholders
        </Link>
      </div>
      {may('keep cards') ? (
        <section className="panel flex flex-col gap-3 p-4" aria-label="Cardholders from a sheet">
          <Given
            label="A sheet of people, pasted: somebody a row"
            example={'name\tdepartment\tkind\tgroups\nÅse Vik\tWet labs\tstaff\tWet labs | Gear store'}
            text={text}
            onText={take}
          />
          <p className="text-ink-2">
            Who is on file already is changed, and only where the sheet says something: an empty cell leaves what is
            kept. Several groups stand in one cell with | between them.
          </p>
          {sheet.rows.length > 0 && (
            <>
              <Columns sheet={sheet} columns={PERSON_COLUMNS} mapping={mapping} onMapping={setChosen} />
              <ReviewingPeople
                sheet={sheet}
                rows={rows}
                own={bad}
                name={name}
                isReady={mapping.includes('name') || mapping.includes('identifier')}
                onEntered={() => take('')}
                onMend={(csv) => take(csv, name)}
              />
            </>
          )}
        </section>
      ) : (
        <p className="text-ink-2">Entering cardholders is not among what you may do at this site.</p>
      )}
    </div>
  );
}
