/** An application: its identifier, keys, settings, and what to do where a card has one already. */
import { useState } from 'react';
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';
import { Check, Choice, Named, Shaped, Text } from '../../../platform/forms/controls.tsx';
import { KEY_KINDS, SETTINGS } from './ChipForm.tsx';
import { type Edit, type FilesPlan, grantFile } from './edit.ts';
import { KeyChoice } from './KeyChoice.tsx';

interface Props {
  plan: FilesPlan;
  index: number;
  edit: Edit;
  names: readonly string[];
  onChoose: (chosen: Chosen) => void;
}

const THERE = [
  ['bring along', 'bring it along'],
  ['renew contents', 'renew its contents and nothing else'],
  ['replace', 'put a new one in its place'],
  ['refuse', 'refuse the card'],
] as const;

export function ApplicationForm({ plan, index, edit, names, onChoose }: Props) {
  const application = plan.applications[index]!;
  const of = (change: (application: FilesPlan['applications'][number]) => void) =>
    edit((draft) => change(draft.applications[index]!));
  const { id, keys, settings } = application;
  const changers = [
    ...keys.map((name, slot) => [slot, `key ${slot}, ${name ?? 'the factory’s'}`] as const),
    ['itself', 'each key itself'] as const,
    ['never', 'nobody: frozen but for key 0'] as const,
  ];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(11rem,100%),1fr))] gap-3">
        <Shaped
          label="Identifier"
          value={id}
          mono
          shape={/^(?!000000)[0-9A-F]{6}$/}
          complaint="six hex digits, not all 0"
          taken={plan.applications.map((one) => one.id)}
          onChange={(next) => {
            of((one) => void (one.id = next));
            onChoose({ application: next });
          }}
        />
        <Named
          label="Name"
          value={application.name ?? ''}
          most={120}
          isOptional
          onChange={(name) => of((one) => void (one.name = name || undefined))}
        />
        <Shaped
          label="ISO file identifier"
          value={application.isoId ?? ''}
          mono
          shape={/^([0-9A-F]{4})?$/}
          complaint="four hex digits, or nothing"
          onChange={(isoId) => of((one) => void (one.isoId = isoId || undefined))}
        />
        <Shaped
          label="ISO name"
          value={application.isoName ?? ''}
          mono
          shape={/^([0-9A-F]{2}){0,16}$/}
          complaint="up to 16 bytes in hex"
          onChange={(isoName) => of((one) => void (one.isoName = isoName || undefined))}
        />
        <Choice
          label="Kind of its keys"
          value={application.keyKind}
          options={KEY_KINDS}
          onChange={(kind) => of((one) => void (one.keyKind = kind))}
        />
        <Choice
          label="If a card has it already"
          value={application.there}
          options={THERE}
          onChange={(there) => of((one) => void (one.there = there))}
        />
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(13rem,100%),1fr))] gap-3">
        {keys.map((name, slot) => (
          <KeyChoice
            // biome-ignore lint/suspicious/noArrayIndexKey: a slot is its number.
            key={slot}
            label={slot === 0 ? 'Key 0, its master' : `Key ${slot}`}
            value={name}
            names={names}
            onChange={(key) => of((one) => void (one.keys[slot] = key))}
          />
        ))}
      </div>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={keys.length >= 14}
          onClick={() => of((one) => void one.keys.push(null))}
        >
          One key more
        </button>
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={keys.length <= 1}
          onClick={() => of((one) => void one.keys.pop())}
        >
          One key fewer
        </button>
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(18rem,100%),1fr))] gap-x-4 gap-y-1">
        <Choice
          label="Who changes the keys besides key 0"
          value={settings.changeKeys}
          options={changers}
          onChange={(changeKeys) => of((one) => void (one.settings.changeKeys = changeKeys))}
        />
        <div className="grid content-end">
          {SETTINGS.map(([name, words]) => (
            <Check
              key={name}
              label={words}
              checked={settings[name]}
              onChange={(on) => of((one) => void (one.settings[name] = on))}
            />
          ))}
        </div>
      </div>
      <div className="flex flex-wrap items-end gap-3 border-t border-faint pt-2">
        <AddGrant
          onAdd={(under) => {
            const file = grantFile(plan, application, under);
            of((one) => void one.files.push(file));
            onChoose({ application: id, file: file.number });
          }}
        />
        <button
          type="button"
          className="btn btn-line btn-small ml-auto"
          onClick={() => {
            edit((draft) => void draft.applications.splice(index, 1));
            onChoose(undefined);
          }}
        >
          Take this application out
        </button>
      </div>
    </div>
  );
}

/** A file by which a third party can free the card, without knowing its master key beforehand. */
function AddGrant({ onAdd }: { onAdd: (under: string) => void }) {
  const [under, setUnder] = useState('');
  return (
    <div className="flex items-end gap-2">
      <Text
        label="Hand-back grant for whoever has the key"
        value={under}
        onChange={setUnder}
        placeholder="Harbour office"
      />
      <button
        type="button"
        className="btn btn-line"
        disabled={under.trim() === ''}
        onClick={() => {
          onAdd(under.trim().slice(0, 120));
          setUnder('');
        }}
      >
        Add it
      </button>
    </div>
  );
}
