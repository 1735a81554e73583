/** One field of a file: where it stands, and what comes into it. */
import type { Content, Field } from '@rawbits/core/plan';
import { placed } from '@rawbits/core/plan';
import { Check, Checks, Choice, Named, Shaped, Whole } from '../../../platform/forms/controls.tsx';
import { CONTENTS, contentOf, KNOWN, lengthFor, renamed } from './edit.ts';

interface Props {
  /** The card’s own key, by its name in the plan. */
  cardKey: string | null;
  fields: Field[];
  index: number;
  onChange: (fields: Field[]) => void;
  onRemove: () => void;
}

const ALIGN = [
  ['left', 'from the left'],
  ['right', 'to the right'],
] as const;

export function FieldForm({ cardKey, fields, index, onChange, onRemove }: Props) {
  const field = fields[index]!;
  const set = (change: Partial<Field>) => onChange(fields.map((one, i) => (i === index ? { ...one, ...change } : one)));
  const setContent = (content: Content) =>
    set({ content, ...(lengthFor(content) !== undefined && { length: lengthFor(content)! }) });
  return (
    <fieldset className="grid content-start gap-2" aria-label={`Field ${field.name}`}>
      <Named
        label="Name"
        value={field.name}
        most={80}
        taken={fields.map(({ name }) => name)}
        onChange={(name) => onChange(renamed(fields, index, name))}
      />
      <div className="grid grid-cols-2 gap-2">
        <Whole
          label="First byte"
          value={placed(fields)[index]!.from}
          min={0}
          max={8191}
          onChange={(at) => set({ at })}
        />
        <Whole label="Bytes" value={field.length} min={1} max={8192} onChange={(length) => set({ length })} />
      </div>
      <Choice
        label="What comes into it"
        value={field.content.is}
        options={Object.entries(CONTENTS) as [Content['is'], string][]}
        onChange={(is) => setContent(contentOf(is, cardKey))}
      />
      <ContentForm content={field.content} before={fields.slice(0, index)} onChange={setContent} />
      <button type="button" className="btn btn-line btn-small justify-self-start" onClick={onRemove}>
        Take this field out
      </button>
    </fieldset>
  );
}

function ContentForm({
  content,
  before,
  onChange,
}: {
  content: Content;
  before: Field[];
  onChange: (content: Content) => void;
}) {
  switch (content.is) {
    case 'fixed':
      return (
        <Shaped
          label="Bytes in hex"
          value={content.hex}
          mono
          shape={/^([0-9A-F]{2})*$/}
          complaint="two hex digits a byte"
          onChange={(hex) => onChange({ ...content, hex })}
        />
      );
    case 'bits':
      return (
        <Choice
          label="The bits stand"
          value={content.align}
          options={ALIGN}
          onChange={(align) => onChange({ ...content, align })}
        />
      );
    case 'text':
      return (
        <>
          <Of content={content} onChange={onChange} />
          <Choice
            label="Letters as"
            value={content.charset}
            options={[
              ['utf-8', 'UTF-8'],
              ['ascii', 'ASCII'],
            ]}
            onChange={(charset) => onChange({ ...content, charset })}
          />
          <div className="grid grid-cols-2 gap-2">
            <Choice
              label="It stands"
              value={content.align}
              options={ALIGN}
              onChange={(align) => onChange({ ...content, align })}
            />
            <Shaped
              label="Filled with"
              value={content.pad}
              mono
              shape={/^[0-9A-F]{2}$/}
              complaint="one byte in hex"
              onChange={(pad) => onChange({ ...content, pad })}
            />
          </div>
        </>
      );
    case 'number':
      return (
        <>
          <Of content={content} onChange={onChange} />
          <Choice
            label="Written"
            value={content.as}
            options={[
              ['binary', 'in binary'],
              ['bcd', 'in packed decimal digits'],
            ]}
            onChange={(as) => onChange({ ...content, as })}
          />
          <Order value={content.order} onChange={(order) => onChange({ ...content, order })} />
        </>
      );
    case 'day':
      return (
        <>
          <Of content={content} onChange={onChange} />
          <Choice
            label="Written"
            value={content.as}
            options={[
              ['bcd', 'YYYYMMDD in packed digits'],
              ['ascii', 'YYYYMMDD in letters'],
            ]}
            onChange={(as) => onChange({ ...content, as })}
          />
        </>
      );
    case 'counter':
      return (
        <>
          <Whole
            label="Begins at"
            value={content.from}
            min={0}
            max={0xffffffff}
            onChange={(from) => onChange({ ...content, from })}
          />
          <Order value={content.order} onChange={(order) => onChange({ ...content, order })} />
          <p className="text-[0.9rem] text-ink-2">
            Written when the file is made; from then on what others count is left alone.
          </p>
        </>
      );
    case 'wrapped':
      return (
        <>
          <Named
            label="Opened by the key"
            value={content.under}
            most={120}
            onChange={(under) => onChange({ ...content, under })}
          />
          <p className="text-[0.9rem] text-ink-2">
            The card’s own key stands here under that one. Whoever has it frees this card, and learns nothing of others.
            Taken out, it is revoked when the card is next brought along; who kept a copy can use it until the card
            master key rolls over.
          </p>
        </>
      );
    case 'check':
      return <CheckForm content={content} before={before} onChange={onChange} />;
  }
}

type ByteOrder = Extract<Content, { order: unknown }>['order'];

const Order = ({ value, onChange }: { value: ByteOrder; onChange: (order: ByteOrder) => void }) => (
  <Choice
    label="Order"
    value={value}
    options={[
      ['big', 'the most significant byte first'],
      ['little', 'the least significant byte first'],
    ]}
    onChange={onChange}
  />
);

function Of({
  content,
  onChange,
}: {
  content: Extract<Content, { of: string }>;
  onChange: (content: Content) => void;
}) {
  return (
    <Named
      label="Which"
      value={content.of}
      most={80}
      list={KNOWN}
      onChange={(of) => onChange({ ...content, of })}
      hint="from the card or whoever holds it"
    />
  );
}

type CheckContent = Extract<Content, { is: 'check' }>;

function CheckForm({
  content,
  before,
  onChange,
}: {
  content: CheckContent;
  before: Field[];
  onChange: (content: Content) => void;
}) {
  const hex = (label: string, name: 'poly' | 'init' | 'xorOut') => (
    <Shaped
      label={label}
      value={content[name]}
      mono
      shape={/^([0-9A-F]{2}){1,8}$/}
      complaint="bytes in hex"
      onChange={(value) => onChange({ ...content, [name]: value })}
    />
  );
  return (
    <>
      <fieldset className="grid gap-0.5">
        <legend className="field-label">Over the fields</legend>
        <Checks
          names={before.map(({ name }) => name)}
          chosen={content.over}
          onChange={(over) => onChange({ ...content, over })}
        />
        {before.length === 0 && (
          <p className="text-[0.9rem] text-signal">A check stands after the fields that it is over.</p>
        )}
      </fieldset>
      <div className="grid grid-cols-3 gap-2">
        {hex('Polynomial', 'poly')}
        {hex('Begins at', 'init')}
        {hex('Combined with', 'xorOut')}
      </div>
      <Check label="reflected" checked={content.reflect} onChange={(reflect) => onChange({ ...content, reflect })} />
      <Order value={content.order} onChange={(order) => onChange({ ...content, order })} />
    </>
  );
}
