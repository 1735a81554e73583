/** A draft tried at once: a read decoded under it beside the saved version, and values made into bits. */
import type { Bits } from '@rawbits/core/bits';
import { type Decoded, decode, encode } from '@rawbits/core/codec';
import { failureOf } from '@rawbits/core/failure';
import { type Layout, labelOf } from '@rawbits/core/format';
import { intake } from '@rawbits/core/intake';
import { useDeferredValue, useMemo, useState } from 'react';
import { CopyButton } from '../../../parts/copy/CopyButton.tsx';
import { useReadsQuery } from '../../../platform/endpoints/reads.ts';
import { Field } from '../../../platform/forms/Field.tsx';
import { useClock } from '../../../platform/site/useClock.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppSelector } from '../../../platform/state/hooks.ts';
import { Pulses } from './Pulses.tsx';

export function TryIt({ layout, saved }: { layout: Layout; saved: Layout | undefined }) {
  return (
    <div className="grid grid-cols-2 gap-4 border-t border-base-300 pt-3 max-lg:grid-cols-1">
      <ReadUnder layout={layout} saved={saved} />
      <ValuesToBits layout={layout} />
    </div>
  );
}

const tryDecode = (bits: Bits | undefined, layout: Layout | undefined): Decoded | undefined =>
  bits && layout ? decode(bits, layout) : undefined;

function ReadUnder({ layout, saved }: { layout: Layout; saved: Layout | undefined }) {
  const clock = useClock();
  const { id } = useSite();
  const latest = useAppSelector((state) => state.read.latest?.bits ?? '');
  const { data: reads = [] } = useReadsQuery({ site: id, limit: 60 });
  const [text, setText] = useState<string>();
  const shown = useDeferredValue(text ?? (latest.length === layout.bits ? latest : ''));
  const taken = useMemo(() => {
    if (shown.trim() === '') return {};
    try {
      const { readings } = intake(shown, { lengths: [layout.bits] });
      return { bits: (readings.find((r) => r.bits.length === layout.bits) ?? readings[0]).bits };
    } catch (error) {
      return { failure: failureOf(error) };
    }
  }, [shown, layout.bits]);
  const [now, before] = useMemo(
    () => [tryDecode(taken.bits, layout), tryDecode(taken.bits, saved)],
    [taken.bits, layout, saved],
  );
  const labels = [...new Set([...Object.keys(now?.values ?? {}), ...Object.keys(before?.values ?? {})])];
  return (
    <div className="min-w-0">
      <Field label="Try it: a read, pasted or on file" error={taken.failure?.message}>
        {(props) => (
          <input
            {...props}
            value={text ?? shown}
            onChange={(event) => setText(event.target.value)}
            list="reads-on-file"
            spellCheck={false}
            autoComplete="off"
            data-testid="try-read"
            className="input w-full font-mono"
          />
        )}
      </Field>
      <datalist id="reads-on-file">
        {reads
          .filter((read) => read.bits.length === layout.bits)
          .map((read) => (
            <option key={read.id} value={read.bits}>
              {read.reader?.name ?? 'pasted'}, {clock(read.at)}
            </option>
          ))}
      </datalist>
      {now && (
        <table className="grid-table mt-1" data-testid="tried">
          <thead>
            <tr>
              <th />
              <th>this draft</th>
              {saved && <th>as saved</th>}
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>fit</td>
              <td className={now.fit === 'full' ? '' : 'text-signal'}>
                {now.fit}: {now.reason}
              </td>
              {saved && <td>{before?.fit}</td>}
            </tr>
            {labels.map((label) => {
              const differs = saved && now.values[label] !== before?.values[label];
              return (
                <tr key={label}>
                  <td>{label}</td>
                  <td className={`font-mono ${differs ? 'font-bold text-signal' : ''}`}>
                    {now.values[label] ?? 'none'}
                    {differs && <span className="font-sans font-normal"> differs</span>}
                  </td>
                  {saved && <td className="font-mono">{before?.values[label] ?? 'none'}</td>}
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}

function ValuesToBits({ layout }: { layout: Layout }) {
  const labels = useMemo(() => layout.spans.flatMap((span) => labelOf(span) ?? []), [layout]);
  const [values, setValues] = useState<Record<string, string>>({});
  const made = useMemo(() => {
    try {
      return { bits: encode(layout, Object.fromEntries(labels.map((label) => [label, values[label] || '0']))) };
    } catch (error) {
      return { failure: failureOf(error) };
    }
  }, [layout, labels, values]);
  return (
    <div className="min-w-0">
      <div className="flex flex-wrap gap-2">
        {labels.map((label) => (
          <Field key={label} label={label} className="w-32">
            {(props) => (
              <input
                {...props}
                value={values[label] ?? ''}
                onChange={(event) => setValues({ ...values, [label]: event.target.value.trim() })}
                placeholder="0"
                inputMode="numeric"
                autoComplete="off"
                className="input w-full font-mono"
              />
            )}
          </Field>
        ))}
      </div>
      {made.failure && <p className="text-signal">{made.failure.message}</p>}
      {made.bits && (
        <>
          <p className="mt-1 flex items-center gap-1">
            <span className="text-ink-2">bits</span>
            <code className="min-w-0 font-mono break-all" data-testid="made-bits">
              {made.bits.toBinary()}
            </code>
            <CopyButton text={made.bits.toBinary()} what="bits" />
          </p>
          <p className="flex flex-wrap items-center gap-x-3">
            <HexOf label="hex, right-justified" text={made.bits.toHex('right')} />
            <HexOf label="hex, left-justified" text={made.bits.toHex('left')} />
          </p>
          <Pulses bits={made.bits} />
        </>
      )}
    </div>
  );
}

function HexOf({ label, text }: { label: string; text: string }) {
  return (
    <span className="flex items-center gap-1">
      <span className="text-ink-2">{label}</span> <code className="font-mono break-all">{text}</code>
      <CopyButton text={text} what={label} />
    </span>
  );
}
