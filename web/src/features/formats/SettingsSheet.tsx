/** The settings sheet: one format in every number that a controller's set-up asks for. To copy, to print, as CSV. */
import { type Format, type Setting, settingsOf, settingsRows } from '@rawbits/core/format';
import { useMemo, useState } from 'react';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import { PrintFoot } from '../../parts/print/PrintFoot.tsx';
import { toCsv } from '../../platform/files/csv.ts';
import { download } from '../../platform/files/download.ts';
import { Field } from '../../platform/forms/Field.tsx';

export function SettingsSheet({ format, layout }: { format: Format; layout: string }) {
  const [offset, setOffset] = useState(format.print?.add ?? '0');
  const valid = /^-?\d{1,30}$/.test(offset);
  const settings = useMemo(() => settingsOf(format, { offset: valid ? BigInt(offset) : 0n }), [format, offset, valid]);
  const items = [...new Set(settings.map((s) => s.item))];
  return (
    <div className="print-sheet flex flex-col gap-3" data-testid="settings">
      <div className="flex flex-wrap items-end gap-3 print:hidden">
        <Field label="Offset of the number" className="w-36" error={valid ? undefined : 'Write a whole number.'}>
          {(props) => (
            <input
              {...props}
              value={offset}
              onChange={(event) => setOffset(event.target.value)}
              className="input w-full font-mono"
            />
          )}
        </Field>
        <button type="button" className="btn btn-line" onClick={() => window.print()}>
          Print
        </button>
        <button
          type="button"
          className="btn btn-line"
          onClick={() => download(`${format.id}-settings.csv`, toCsv(settingsRows(settings)), 'text/csv')}
        >
          Keep as CSV
        </button>
        <p className="text-ink-2">Positions are those of the format’s own order, most significant bit first.</p>
      </div>
      <div className="hidden print:block">
        <h1>{format.name}</h1>
        <p className="font-mono">{layout}</p>
      </div>
      <PrintFoot />
      <div className="columns-2 gap-6 max-lg:columns-1">
        {items.map((item) => (
          <Item key={item} item={item} settings={settings.filter((s) => s.item === item)} />
        ))}
      </div>
    </div>
  );
}

function Item({ item, settings }: { item: string; settings: Setting[] }) {
  return (
    <table className="grid-table mb-4 break-inside-avoid">
      <caption className="text-left font-bold">{item === 'format' ? 'the whole' : item}</caption>
      <tbody>
        {settings.map(({ setting, value, note }) => (
          <tr key={setting}>
            <td className="w-[42%] text-ink-2">{setting}</td>
            <td className="font-mono break-all">
              {value}
              {note && <span className="block font-sans break-normal text-ink-2">{note}</span>}
            </td>
            <td className="w-8 py-0! print:hidden">
              {value !== '' && <CopyButton text={value} what={`${item}, ${setting}`} />}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
