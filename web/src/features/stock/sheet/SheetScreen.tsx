/** Cards from a sheet: pasted or chosen, its columns named, reviewed row by row, entered. */
import { useMemo, useState } from 'react';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { fromCsv } from '../../../platform/files/csv.ts';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { FormatOptions } from '../FormatOptions.tsx';
import { carriesFacility } from '../issuing.ts';
import { StockTabs } from '../StockTabs.tsx';
import { Columns } from './Columns.tsx';
import { COLUMNS, type Column, cardsIn, guessed } from './cardRows.ts';
import { Given } from './Given.tsx';
import { Presenting } from './Presenting.tsx';
import { ReviewingCards } from './ReviewingCards.tsx';
import { type Mapping, sheetOf } from './table.ts';

export function SheetScreen() {
  const { id: site, zone, may } = useSite();
  const [text = '', setText] = useDraft<string>('sheets of cards', site);
  const [name, setName] = useState('');
  const [isPresenting, setPresenting] = useState(false);
  const sheet = useMemo(() => sheetOf(text === '' ? [] : fromCsv(text)), [text]);
  // What the columns of a sheet with these headings were, is remembered.
  const [chosen, setChosen] = useDraft<Mapping<Column>>('columns of sheets', `${site} ${sheet.headings.join('\t')}`);
  const mapping = useMemo(() => chosen ?? guessed(sheet), [chosen, sheet]);
  const { data: formats = [] } = useFormatsQuery(site);
  const usable = formats.filter((f) => f.adopted && f.format.spans.some(({ role }) => role === 'number'));
  const [formatId = usable[0]?.format.id ?? '', setFormat] = useDraft<string>('format of sheets', site);
  const [facility = '', setFacility] = useDraft<string>('code of sheets', site);
  const format = usable.find((f) => f.format.id === formatId)?.format;
  const carries = carriesFacility(format);
  const { rows, bad } = useMemo(
    () => cardsIn(sheet, mapping, carries ? facility : '', zone),
    [sheet, mapping, carries, facility, zone],
  );
  const take = (next: string, called = '') => {
    setText(next);
    setName(called);
  };
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 overflow-auto p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
      </div>
      {may('keep cards') ? (
        <section className="panel flex flex-col gap-3 p-4" aria-label="Cards from a sheet">
          <Given
            label="A sheet of cards, pasted: a card a row"
            example={'number\tholder\tdepartment\n11000\tÅse Vik\tWet labs'}
            text={text}
            onText={take}
          />
          {isPresenting && format ? (
            <Presenting
              {...{ sheet, mapping, format }}
              code={carries ? facility : ''}
              onText={setText}
              onDone={() => setPresenting(false)}
            />
          ) : (
            <button type="button" className="btn btn-line self-start" onClick={() => setPresenting(true)}>
              Present card after card
            </button>
          )}
          {(sheet.rows.length > 0 || isPresenting) && (
            <div className="flex flex-wrap gap-3">
              <Field label="Format of the cards" className="w-80">
                {(props) => (
                  <select
                    {...props}
                    value={formatId}
                    onChange={(e) => setFormat(e.target.value)}
                    className="select w-full"
                  >
                    <FormatOptions formats={usable} />
                  </select>
                )}
              </Field>
              {carriesFacility(format) && (
                <Field label="Facility code" hint="where a row has none of its own" className="w-56">
                  {(props) => (
                    <input
                      {...props}
                      value={facility}
                      onChange={(e) => setFacility(e.target.value.trim())}
                      inputMode="numeric"
                      className="input w-full font-mono"
                    />
                  )}
                </Field>
              )}
            </div>
          )}
          {sheet.rows.length > 0 && (
            <>
              <Columns sheet={sheet} columns={COLUMNS} mapping={mapping} onMapping={setChosen} />
              <ReviewingCards
                sheet={sheet}
                body={{ formatId, rows }}
                own={bad}
                name={name}
                isReady={mapping.includes('number')}
                onEntered={() => take('')}
                onMend={(csv) => take(csv, name)}
              />
            </>
          )}
        </section>
      ) : (
        <p className="text-ink-2">Entering cards is not among what you may do at this site.</p>
      )}
    </div>
  );
}
