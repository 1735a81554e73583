/** The columns of a sheet, each with what it is. */
import { counted } from '../../../platform/words/words.ts';
import type { Mapping, Sheet } from './table.ts';

const SHOWN = 5;

interface Props<Column extends string> {
  sheet: Sheet;
  /** What a column can be. */
  columns: readonly Column[];
  mapping: Mapping<Column>;
  onMapping: (next: Mapping<Column>) => void;
}

/** The first rows, with what each column is over it. */
export function Columns<Column extends string>({ sheet, columns, mapping, onMapping }: Props<Column>) {
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
                  {columns.map((one) => (
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
