/** A file: its kind, size and mode, who may do what with it, and what stands in its bytes. */
import type { PlanFile, Who } from '@rawbits/core/plan';
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';
import { Check, Choice, Named, Shaped, Whole } from '../../../platform/forms/controls.tsx';
import { type Edit, type FilesPlan, fileOfKind } from './edit.ts';
import { FieldsForm } from './FieldsForm.tsx';

interface Props {
  plan: FilesPlan;
  application: number;
  number: number;
  edit: Edit;
  onChoose: (chosen: Chosen) => void;
}

const KINDS = [
  ['standard', 'data, written at once'],
  ['backup', 'data, with a copy until committed'],
  ['value', 'a value with limits'],
  ['linear', 'records, until full'],
  ['cyclic', 'records, the oldest goes'],
] as const;
const MODES = [
  ['plain', 'plain'],
  ['maced', 'with a MAC'],
  ['enciphered', 'enciphered'],
] as const;
const RIGHTS = [
  ['read', 'Read'],
  ['write', 'Write'],
  ['both', 'Read and write'],
  ['change', 'Change these rights'],
] as const;

export function FileForm({ plan, application: index, number, edit, onChoose }: Props) {
  const application = plan.applications[index]!;
  const at = application.files.findIndex((file) => file.number === number);
  const file = application.files[at]!;
  const of = (change: (file: PlanFile) => void) => edit((draft) => change(draft.applications[index]!.files[at]!));
  const who: (readonly [Who, string])[] = [
    ...application.keys.map((name, slot) => [slot, `key ${slot}, ${name ?? 'the factory’s'}`] as const),
    ['free', 'everybody'],
    ['never', 'nobody'],
  ];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(11rem,100%),1fr))] gap-3">
        <Whole
          label="Number"
          value={file.number}
          min={0}
          max={31}
          taken={application.files.map((one) => one.number)}
          onChange={(next) => {
            of((one) => void (one.number = next));
            onChoose({ application: application.id, file: next });
          }}
        />
        <Named
          label="Name"
          value={file.name ?? ''}
          most={120}
          isOptional
          onChange={(name) => of((one) => void (one.name = name || undefined))}
        />
        <Choice
          label="Kind"
          value={file.kind}
          options={KINDS}
          onChange={(kind) =>
            edit((draft) => void (draft.applications[index]!.files[at] = fileOfKind(kind, number, file)))
          }
        />
        <Choice
          label="On the way"
          value={file.mode}
          options={MODES}
          onChange={(mode) => of((one) => void (one.mode = mode))}
        />
        <Shape file={file} of={of} />
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(11rem,100%),1fr))] gap-3">
        {RIGHTS.map(([right, words]) => (
          <Choice
            key={right}
            label={words}
            value={file.rights[right]}
            options={who}
            onChange={(one) => of((draft) => void (draft.rights[right] = one))}
          />
        ))}
      </div>
      {'fields' in file && (
        <FieldsForm
          cardKey={plan.card.key}
          fields={file.fields}
          size={file.size}
          onChange={(fields) => of((one) => 'fields' in one && void (one.fields = fields))}
        />
      )}
      <button
        type="button"
        className="btn btn-line btn-small justify-self-end"
        onClick={() => {
          edit((draft) => void draft.applications[index]!.files.splice(at, 1));
          onChoose({ application: application.id });
        }}
      >
        Take this file out
      </button>
    </div>
  );
}

/** How large it is, and its limits. */
function Shape({ file, of }: { file: PlanFile; of: (change: (file: PlanFile) => void) => void }) {
  if (file.kind === 'value') {
    const limits = [
      ['lower', 'Least'],
      ['upper', 'Most'],
      ['value', 'Begins at'],
    ] as const;
    return (
      <>
        {limits.map(([name, words]) => (
          <Whole
            key={name}
            label={words}
            value={file[name]}
            min={-(2 ** 31)}
            max={2 ** 31 - 1}
            onChange={(value) => of((one) => one.kind === 'value' && void (one[name] = value))}
          />
        ))}
        <Check
          label="limited credit"
          checked={file.limitedCredit}
          onChange={(on) => of((one) => one.kind === 'value' && void (one.limitedCredit = on))}
        />
      </>
    );
  }
  return (
    <>
      <Whole
        label={'records' in file ? 'Bytes of a record' : 'Bytes'}
        value={file.size}
        min={1}
        max={8192}
        onChange={(size) => of((one) => 'size' in one && void (one.size = size))}
      />
      {'records' in file && (
        <Whole
          label="Records"
          value={file.records}
          min={file.kind === 'cyclic' ? 2 : 1}
          max={10_000}
          onChange={(records) => of((one) => 'records' in one && void (one.records = records))}
        />
      )}
      <Shaped
        label="ISO file identifier"
        value={file.isoId ?? ''}
        mono
        shape={/^([0-9A-F]{4})?$/}
        complaint="four hex digits, or nothing"
        onChange={(isoId) => of((one) => one.kind !== 'value' && void (one.isoId = isoId || undefined))}
      />
    </>
  );
}
