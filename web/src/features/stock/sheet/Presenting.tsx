/** Card after card held to a reader: each comes into the list, and its print is typed beside it. */
import type { Format } from '@rawbits/core/format';
import { useEffect, useRef, useState } from 'react';
import { Field } from '../../../platform/forms/Field.tsx';
import { printDoubt } from '../issuing.ts';
import { useReadsSince } from '../useReadsSince.ts';
import type { Column } from './cardRows.ts';
import { cardOf, placeOf, withCard, withPrint } from './presented.ts';
import type { Mapping, Sheet } from './table.ts';

interface Props {
  sheet: Sheet;
  mapping: Mapping<Column>;
  format: Format;
  /** The facility code of rows that have none of their own. */
  code: string;
  onText: (text: string) => void;
  onDone: () => void;
}

export function Presenting({ sheet, mapping, format, code, onText, onDone }: Props) {
  const [newest] = useReadsSince();
  const taken = useRef<string>(undefined);
  const [told, setTold] = useState('');
  const [row, setRow] = useState<number>();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (newest === undefined || taken.current === newest) return;
    taken.current = newest;
    const card = cardOf(newest, format);
    if ('not' in card) {
      setRow(undefined);
      setTold(`${card.not} It is not in the list.`);
      return;
    }
    const name = `${card.facility && `${card.facility}/`}${card.number}`;
    const at = placeOf(sheet, mapping, code, card);
    if (at < 0) onText(withCard(sheet, mapping, format, card));
    setRow(at < 0 ? sheet.rows.length : at);
    setTold(at < 0 ? `${name} is in the list.` : `${name} stands in row ${sheet.firstRow + at} already.`);
    field.current?.focus({ preventScroll: true });
  }, [newest, sheet, mapping, format, code, onText]);
  const at = (column: Column): string =>
    row === undefined ? '' : (sheet.rows[row]?.[mapping.indexOf(column)] ?? '').trim();
  const doubt = printDoubt(
    at('printed'),
    { facility: at('facility code') || code, number: at('number') },
    undefined,
    format,
  );
  return (
    <div className="flex flex-wrap items-end gap-3 border-l-4 border-primary pl-3" data-testid="presenting">
      <p role="status" className="basis-full">
        {told || 'Hold the cards to a reader, one after the other, or paste their reads outside a field.'}{' '}
        {sheet.rows.length > 0 && <strong>{sheet.rows.length} in the list.</strong>}
      </p>
      {row !== undefined && (
        <Field label="Printed on it" error={doubt} className="w-72">
          {(props) => (
            <input
              {...props}
              ref={field}
              value={at('printed')}
              onChange={({ target: { value } }) => {
                const text = withPrint(sheet, mapping, row, value);
                if (text !== undefined) onText(text);
              }}
              maxLength={80}
              className="input w-full font-mono"
            />
          )}
        </Field>
      )}
      <button type="button" className="btn btn-line" onClick={onDone}>
        Done
      </button>
    </div>
  );
}
