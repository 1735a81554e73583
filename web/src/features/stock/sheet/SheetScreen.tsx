/** Cards from a sheet: pasted or chosen, its columns named, reviewed row by row, entered. */
import { useMemo, useState } from 'react';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { fromCsv } from '../../../platform/files/csv.ts';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { FormatOptions } from '../FormatOptions.tsx';
import { carriesFacility } from '../issuing.ts';
import { StockTabs } from '../StockTabs.tsx';
import { Reviewing } from './Reviewing.tsx';
import { COLUMNS, type Column, cardsIn, guessed, type Mapping, type Sheet, sheetOf } from './rows.ts';

const SHOWN = 5;

export function SheetScreen() {
  const { id: site, zone, may } = useSite();
  const [text = '', setText] = useDraft<string>('sheets of cards', site);
  const [name, setName] = useState('');
  const sheet = useMemo(() => sheetOf(text === '' ? [] : fromCsv(text)), [text]);
  // What the columns of a sheet with these headings were, is remembered.
  const [chosen, setChosen] = useDraft<Mapping>('columns of sheets', `${site} ${sheet.headings.join('\t')}`);
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
          <Given text={text} onText={take} />
          {sheet.rows.length > 0 && (
            <>
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
              <Columns sheet={sheet} mapping={mapping} onMapping={setChosen} />
              <Reviewing
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

function Given({ text, onText }: { text: string; onText: (text: string, name?: string) => void }) {
  return (
    <div className="flex flex-wrap items-end gap-4">
      <Field
        label="A sheet of cards, pasted: a card a row, its columns in any order"
        className="min-w-[min(20rem,100%)] flex-1"
      >
        {(props) => (
          <textarea
            {...props}
            value={text}
            onChange={(event) => onText(event.target.value)}
            rows={4}
            spellCheck={false}
            placeholder={'number\tholder\tdepartment\n11000\tÅse Vik\tWet labs'}
            className="textarea w-full font-mono"
          />
        )}
      </Field>
      <Field label="or a file (CSV)">
        {(props) => (
          <input
            {...props}
            type="file"
            accept=".csv,.tsv,.txt,text/csv"
            className="file-input"
            onChange={async ({ target }) => {
              const file = target.files?.[0];
              if (file) onText(await file.text(), file.name);
              target.value = '';
            }}
          />
        )}
      </Field>
    </div>
  );
}

/** The first rows, with what each column is over it. */
function Columns({
  sheet,
  mapping,
  onMapping,
}: {
  sheet: Sheet;
  mapping: Mapping;
  onMapping: (next: Mapping) => void;
}) {
  const choose = (at: number, column: Column | null) =>
    // A column of a sheet is one thing, and each thing stands in one column.
    onMapping(mapping.map((own, i) => (i === at ? column : own === column ? null : own)));
  return (
    // A region that scrolls can be scrolled by the keyboard.
    // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
    <section className="overflow-x-auto" aria-label="Columns" tabIndex={0}>
      <table className="grid-table">
        <thead>
          <tr>
            {mapping.map((column, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: columns stay where they are
              <th key={i} scope="col">
                <span className="block">{sheet.headings[i] || `column ${i + 1}`}</span>
                <select
                  value={column ?? ''}
                  aria-label={`What ${sheet.headings[i] || `column ${i + 1}`} is`}
                  onChange={(event) => choose(i, (event.target.value || null) as Column | null)}
                  className="select w-36"
                >
                  <option value="">left out</option>
                  {COLUMNS.map((one) => (
                    <option key={one}>{one}</option>
                  ))}
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sheet.rows.slice(0, SHOWN).map((cells, row) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows stay where they are
            <tr key={row}>
              {mapping.map((column, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: as above
                <td key={i} className={column === null ? 'text-ink-2' : 'font-mono'}>
                  {cells[i]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {sheet.rows.length > SHOWN && <p className="text-ink-2">and {counted(sheet.rows.length - SHOWN, 'row')} more</p>}
    </section>
  );
}
