/** The key of one card from the key of all, step by step, with keys that protect nothing. It is worked out in this page. */
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { failureOf } from '@rawbits/core/failure';
import {
  checkValueOf,
  DIVERSIFIED_KINDS,
  type Diversified,
  type DiversifiedKind,
  Diversifier,
  diversifyData,
  keyOf,
  MOST_DATA,
} from '@rawbits/core/key';
import { useState } from 'react';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import type { Told } from '../../platform/forms/FailureNote.tsx';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { Identifiers } from './Identifiers.tsx';
import { grouped, KIND_WORDS } from './words/words.ts';

/** The worked example of NXP AN10922 §2.2. */
const EXAMPLE = {
  kind: 'aes128' as DiversifiedKind,
  key: '00112233445566778899AABBCCDDEEFF',
  uid: '04782E21801D80',
  application: '3042F5',
  system: '4E585020416275',
};

interface Made {
  found?: Diversified;
  failure?: Told & { where?: { field?: string } };
}

function make({ kind, key, uid, application, system }: typeof EXAMPLE): Made {
  try {
    const data = diversifyData(bytesOf(uid, 'uid'), bytesOf(application, 'application'), bytesOf(system, 'system'));
    return { found: new Diversifier(kind, keyOf(kind, key)).explain(data) };
  } catch (error) {
    return { failure: failureOf(error) };
  }
}

const FIELDS = [
  ['key', 'Test key'],
  ['uid', 'UID'],
  ['application', 'Application'],
  ['system', 'System identifier'],
] as const;

export function Diversify() {
  const [typed, setTyped] = useState(EXAMPLE);
  const { found, failure } = make(typed);
  const set = (more: Partial<typeof EXAMPLE>) => setTyped({ ...typed, ...more });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,22rem)_minmax(0,1fr)] gap-3 overflow-auto max-lg:block max-lg:space-y-3">
      <div className="flex flex-col gap-3">
        <section className="panel grid content-start gap-3 p-4" aria-label="What goes in">
          <h2>What goes in</h2>
          <p className="text-ink-2">
            For test keys: what is typed here stays in this page. Keys of the store are diversified on the server, and
            shown to nobody. It begins with the published example.
          </p>
          <Field label="Kind">
            {(props) => (
              <select
                {...props}
                value={typed.kind}
                onChange={(event) => set({ kind: event.target.value as DiversifiedKind })}
                className="select w-full"
              >
                {DIVERSIFIED_KINDS.map((kind) => (
                  <option key={kind} value={kind}>
                    {KIND_WORDS[kind]}
                  </option>
                ))}
              </select>
            )}
          </Field>
          {FIELDS.map(([name, label]) => (
            <Field key={name} label={label} error={failure?.where?.field === name ? failure.message : undefined}>
              {(props) => (
                <input
                  {...props}
                  value={typed[name]}
                  onChange={(event) => set({ [name]: event.target.value })}
                  className="input w-full font-mono"
                  spellCheck={false}
                  autoComplete="off"
                />
              )}
            </Field>
          ))}
          <p className="text-ink-2">
            UID, application and system identifier together: 1 to {MOST_DATA[typed.kind]} bytes.
          </p>
        </section>
        <Identifiers onTake={(system) => set({ system })} />
      </div>
      <section
        className="panel flex min-w-0 flex-col gap-3 overflow-auto p-4"
        aria-label="Step by step"
        aria-live="polite"
      >
        <h2>Step by step</h2>
        {failure && !FIELDS.some(([name]) => failure.where?.field === name) && <FailureNote failure={failure} />}
        {failure && FIELDS.some(([name]) => failure.where?.field === name) && (
          <p className="text-ink-2">Mend what is marked at the left.</p>
        )}
        {found && <Steps kind={typed.kind} found={found} />}
      </section>
    </div>
  );
}

/** Bytes in hex, a line a block where `block` says how long one is. */
function Hex({ bytes, strong, block = bytes.length }: { bytes: Uint8Array; strong?: boolean; block?: number }) {
  const starts = Array.from({ length: Math.ceil(bytes.length / Math.max(1, block)) }, (_, i) => i * block);
  return (
    <span className={`font-mono break-words ${strong ? 'font-bold' : ''}`}>
      {starts.map((at) => (
        <span key={at} className="block">
          {grouped(hexOf(bytes.subarray(at, at + block)))}
        </span>
      ))}
    </span>
  );
}

function Steps({ kind, found }: { kind: DiversifiedKind; found: Diversified }) {
  const { data, k1, k2, steps, key } = found;
  return (
    <>
      <dl className="grid grid-cols-[11rem_1fr] gap-x-3 gap-y-1">
        <dt className="text-ink-2">the card’s data, {data.length} bytes</dt>
        <dd>
          <Hex bytes={data} />
        </dd>
        <dt className="text-ink-2">subkey K1</dt>
        <dd>
          <Hex bytes={k1} />
        </dd>
        <dt className="text-ink-2">subkey K2</dt>
        <dd>
          <Hex bytes={k2} />
        </dd>
      </dl>
      <ol className="grid gap-3">
        {steps.map((step, i) => (
          <li key={step.constant} className="grid gap-1 border-t border-faint pt-2">
            <h3 className="font-bold">
              {steps.length === 1 ? 'The key' : `Part ${i + 1} of the key`}, with the constant{' '}
              <span className="font-mono">{step.constant.toString(16).padStart(2, '0')}</span>
            </h3>
            <dl className="grid grid-cols-[11rem_1fr] gap-x-3 gap-y-1">
              <dt className="text-ink-2">
                constant and data{step.wasPadded ? ', padded with 80 00 …' : ', two whole blocks'}
              </dt>
              <dd>
                <Hex bytes={step.padded} block={step.padded.length / 2} />
              </dd>
              <dt className="text-ink-2">last block XOR {step.wasPadded ? 'K2' : 'K1'}</dt>
              <dd>
                <Hex bytes={step.enciphered} block={step.padded.length / 2} />
              </dd>
              <dt className="text-ink-2">enciphered (CBC), the last block</dt>
              <dd>
                <Hex bytes={step.part} strong />
              </dd>
            </dl>
          </li>
        ))}
      </ol>
      <p className="flex flex-wrap items-center gap-x-3 border-t-2 border-base-content pt-2 text-[1.1rem]">
        <span>The card’s key</span>
        <Hex bytes={key} strong />
        <CopyButton text={hexOf(key)} what="the card’s key" />
        <span className="text-ink-2">
          check value <span className="font-mono">{checkValueOf(kind, key)}</span>
        </span>
      </p>
      <p className="text-ink-2">NXP AN10922: AES-128 §2.2, two-key 3DES §2.3, three-key 3DES §2.4.</p>
    </>
  );
}
