/** The card itself: its chip, its own key and settings, and how the plan’s keys come about. */
import { keyOfPlan } from '@rawbits/core/plan';
import { useKeySetsQuery } from '../../../platform/endpoints/keys.ts';
import { Check, Choice, Named, Shaped } from '../../../platform/forms/controls.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import type { Edit, FilesPlan } from './edit.ts';
import { KeyChoice } from './KeyChoice.tsx';

export const KEY_KINDS = [
  ['aes128', 'AES-128'],
  ['tdes2', '3DES, two keys'],
  ['tdes3', '3DES, three keys'],
] as const;

interface Props {
  plan: FilesPlan;
  edit: Edit;
  names: readonly string[];
}

export function ChipForm({ plan, edit, names }: Props) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(11rem,100%),1fr))] gap-3">
        <Named
          label="Name of the plan"
          value={plan.name}
          most={120}
          onChange={(name) => edit((draft) => void (draft.name = name))}
        />
        <Choice
          label="Generation of the chip"
          value={plan.generation}
          options={[
            [1, 'first'],
            [2, 'second'],
            [3, 'third'],
          ]}
          onChange={(generation) => edit((draft) => void (draft.generation = generation))}
        />
        <Choice
          label="Memory"
          value={plan.capacity}
          options={[
            [2048, '2 KB'],
            [4096, '4 KB'],
            [8192, '8 KB'],
          ]}
          onChange={(capacity) => edit((draft) => void (draft.capacity = capacity))}
        />
        <Choice
          label="Where it is carried"
          value={plan.carried}
          options={[
            ['inside', 'inside the premises'],
            ['in public', 'in public'],
          ]}
          onChange={(carried) => edit((draft) => void (draft.carried = carried))}
        />
        <KeyChoice
          label="Card master key"
          value={plan.card.key}
          names={names}
          onChange={(key) => edit((draft) => void (draft.card.key = key))}
        />
        <Choice
          label="Its kind"
          value={plan.card.keyKind}
          options={KEY_KINDS}
          onChange={(kind) => edit((draft) => void (draft.card.keyKind = kind))}
        />
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(18rem,100%),1fr))] gap-x-4 gap-y-1">
        <Check
          label="the UID is drawn anew each time, for good"
          checked={plan.randomUid}
          onChange={(on) => edit((draft) => void (draft.randomUid = on))}
        />
        <Check
          label="formatting is given up, for good"
          checked={plan.noFormat}
          onChange={(on) => edit((draft) => void (draft.noFormat = on))}
        />
        {SETTINGS.map(([name, words]) => (
          <Check
            key={name}
            label={words}
            checked={plan.card.settings[name]}
            onChange={(on) => edit((draft) => void (draft.card.settings[name] = on))}
          />
        ))}
      </div>
      <KeysTold plan={plan} edit={edit} names={names} />
    </div>
  );
}

export const SETTINGS = [
  ['masterChangeable', 'key 0 can be changed'],
  ['freeDirectory', 'everybody may list what there is'],
  ['freeCreate', 'everybody may create what is below'],
  ['changeable', 'these settings can be changed'],
] as const;

/** Of each key whether it is the same on all cards, and which of the store it is. */
function KeysTold({ plan, edit, names }: Props) {
  const { id: site } = useSite();
  const { data: sets = [] } = useKeySetsQuery(site);
  const keys = sets.flatMap((set) => set.keys.map((key) => ({ set: set.name, key })));
  const change = (name: string, fields: Partial<FilesPlan['keys'][number]>) =>
    edit((draft) => {
      const before = keyOfPlan(draft, name);
      draft.keys = [...draft.keys.filter((key) => key.name !== name), { ...before, ...fields }];
    });
  return (
    <table className="grid-table" aria-label="Keys of the plan">
      <thead>
        <tr>
          <th scope="col">key</th>
          <th scope="col">in the key store</th>
          <th scope="col">on the cards</th>
          <th scope="col">system identifier</th>
        </tr>
      </thead>
      <tbody>
        {names.map((name) => {
          const { each, system, from } = keyOfPlan(plan, name);
          const found = keys.find(({ set, key }) =>
            from ? set === from.set && key.name === from.key : key.name === name,
          );
          const now = found?.key.versions.find(({ version }) => version === found.key.current);
          return (
            <tr key={name}>
              <th scope="row" className="font-bold">
                {name}
              </th>
              <td>
                <select
                  className="select w-full"
                  aria-label={`Which key of the store is ${name}`}
                  value={from ? `${from.set}\n${from.key}` : ''}
                  onChange={(event) => {
                    const [set, key] = event.target.value.split('\n');
                    change(name, { from: set && key ? { set, key } : undefined });
                  }}
                >
                  <option value="">the one called {name}</option>
                  {keys.map(({ set, key }) => (
                    <option key={key.id} value={`${set}\n${key.name}`}>
                      {set} / {key.name}
                    </option>
                  ))}
                </select>
                {now ? (
                  <span className="text-[0.9rem] text-ink-2">
                    version {now.version}, <span className="font-mono">{now.checkValue}</span>
                  </span>
                ) : (
                  <span className="text-[0.9rem] text-signal">not in the key store yet</span>
                )}
              </td>
              <td>
                <select
                  className="select w-full"
                  aria-label={`How ${name} comes on a card`}
                  value={each}
                  onChange={(event) => change(name, { each: event.target.value as 'card' | 'all' })}
                >
                  <option value="card">another on each, made from its UID</option>
                  <option value="all">the same on all</option>
                </select>
              </td>
              <td>
                {each === 'card' && (
                  <Shaped
                    label=""
                    called={`System identifier of ${name}`}
                    value={system}
                    shape={/^([0-9A-F]{2}){0,21}$/}
                    complaint="up to 21 bytes in hex"
                    mono
                    onChange={(text) => change(name, { system: text })}
                  />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
