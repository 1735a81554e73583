/** What must stay true of a plan: proven, or with who breaks it and how. */
import type { ChipPlan } from '@rawbits/api';
import type { Assertion } from '@rawbits/core/plan';
import { useState } from 'react';
import { Checks } from '../../../platform/forms/controls.tsx';
import type { Can, Held } from './reach.worker.ts';

interface Props {
  plan: ChipPlan;
  names: readonly string[];
  held: Held[] | undefined;
  sayable: readonly string[] | undefined;
  onShow: (way: Can) => void;
  onChange?: (assertions: Assertion[]) => void;
}

export const assertionWords = ({ claim, keys, can }: Assertion): string => {
  const whose = keys.length === 0 ? 'nobody' : keys.map((key) => `"${key}"`).join(' and ');
  if (claim === 'only') return keys.length === 0 ? `nobody can ever ${can}` : `nobody without ${whose} can ever ${can}`;
  return keys.length === 0 ? `without any key nobody can ${can}` : `with ${whose} alone nobody can ${can}`;
};

export function Assertions({ plan, names, held, onShow, onChange, sayable }: Props) {
  const [adding, setAdding] = useState(false);
  const shown =
    held ?? plan.assertions.map((assertion) => ({ assertion, holds: true, keys: [], broken: null }) as Held);
  return (
    <div className="grid gap-1">
      {shown.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: assertions have no names of their own.
        <div key={i} className={`border-l-4 pl-2 ${one.holds ? 'border-primary' : 'border-signal'}`}>
          <p>
            <strong className={one.holds ? 'text-primary' : 'text-signal'}>
              {held === undefined
                ? 'Not worked out yet'
                : one.holds
                  ? 'Proven'
                  : one.failure
                    ? 'About nothing'
                    : 'Broken'}
              :
            </strong>{' '}
            {assertionWords(one.assertion)}.
          </p>
          {one.failure && <p className="text-[0.9rem] text-signal">{one.failure.message}</p>}
          {one.broken && (
            <p className="text-[0.9rem]">
              {one.keys.length === 0 ? 'Anybody' : `Whoever has ${one.keys.join(' and ')}`} can, in{' '}
              {one.broken.by.length} steps.{' '}
              <button
                type="button"
                className="cursor-pointer underline"
                onClick={() => one.broken && onShow(one.broken)}
              >
                See how
              </button>
            </p>
          )}
          {onChange && (
            <button
              type="button"
              className="cursor-pointer text-[0.9rem] text-ink-2 underline"
              onClick={() => onChange(plan.assertions.filter((_, j) => j !== i))}
            >
              no longer
            </button>
          )}
        </div>
      ))}
      {shown.length === 0 && <p className="text-ink-2">Nothing is said yet of what must stay true of these cards.</p>}
      {onChange &&
        (adding ? (
          <AddAssertion
            names={names}
            sayable={sayable ?? []}
            onDone={(assertion) => {
              if (assertion) onChange([...plan.assertions, assertion]);
              setAdding(false);
            }}
          />
        ) : (
          <button type="button" className="btn btn-line btn-small justify-self-start" onClick={() => setAdding(true)}>
            What must stay true …
          </button>
        ))}
    </div>
  );
}

function AddAssertion({
  names,
  sayable,
  onDone,
}: {
  names: readonly string[];
  sayable: readonly string[];
  onDone: (assertion?: Assertion) => void;
}) {
  const [claim, setClaim] = useState<Assertion['claim']>('only');
  const [keys, setKeys] = useState<string[]>([]);
  const [can, setCan] = useState('');
  return (
    <div className="grid gap-2 border border-base-300 p-2">
      <select
        className="select w-full"
        aria-label="Claim"
        value={claim}
        onChange={(event) => setClaim(event.target.value as Assertion['claim'])}
      >
        <option value="only">Nobody without these keys</option>
        <option value="never">Nobody with these keys alone</option>
      </select>
      <div className="grid gap-0.5">
        <Checks names={names} chosen={keys} onChange={setKeys} />
      </div>
      <label className="grid gap-1">
        <span className="field-label">{claim === 'only' ? 'can ever' : 'can'}</span>
        <input
          className="input w-full"
          list="sayable"
          value={can}
          onChange={(event) => setCan(event.target.value)}
          placeholder="alter file 1 of 5A0001"
        />
        <datalist id="sayable">
          {sayable.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </label>
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary btn-small"
          disabled={can.trim() === ''}
          onClick={() => onDone({ claim, keys, can: can.trim() })}
        >
          Check it from now on
        </button>
        <button type="button" className="btn btn-line btn-small" onClick={() => onDone()}>
          Cancel
        </button>
      </div>
    </div>
  );
}
