/** Fields over some bytes, of a file, a sector or a tag: drawn on the map of bytes, dragged or typed, one of them chosen. */
import type { Field } from '@rawbits/core/plan';
import { useState } from 'react';
import { ByteMap } from '../../../parts/byteMap/ByteMap.tsx';
import { FieldForm } from './FieldForm.tsx';

interface Props {
  /** The card’s own key, by its name in the plan. */
  cardKey: string | null;
  fields: Field[];
  size: number;
  /** Bytes of a new field. */
  length?: number;
  onChange: (fields: Field[]) => void;
}

export function FieldsForm({ cardKey, fields, size, length = 4, onChange }: Props) {
  const [chosen, setChosen] = useState<number | undefined>(fields.length > 0 ? 0 : undefined);
  const add = () => {
    const name = `field ${fields.length + 1}`;
    onChange([...fields, { name, length, content: { is: 'fixed', hex: '00' } }]);
    setChosen(fields.length);
  };
  return (
    <div className="grid grid-cols-[auto_minmax(13rem,1fr)] gap-4 border-t border-faint pt-3 max-xl:grid-cols-1">
      <div className="overflow-x-auto">
        <ByteMap fields={fields} size={size} chosen={chosen} onChoose={setChosen} onChange={onChange} />
        <p className="max-w-md pt-1 text-[0.9rem] text-ink-2">
          Drag a field along, or its right end to make it longer; with the keyboard the arrow keys, and Shift with them.
        </p>
        <button type="button" className="btn btn-line btn-small mt-1" onClick={add}>
          New field
        </button>
      </div>
      {chosen !== undefined && fields[chosen] && (
        <FieldForm
          key={chosen}
          cardKey={cardKey}
          fields={fields}
          index={chosen}
          onChange={onChange}
          onRemove={() => {
            onChange(fields.filter((_, i) => i !== chosen));
            setChosen(undefined);
          }}
        />
      )}
    </div>
  );
}
