/** The layout line, the length and how the bits arrive. */
import type { Failure } from '@rawbits/core/failure';
import { type Arrives, type Layout, resize } from '@rawbits/core/format';
import { useEffect, useState } from 'react';
import { Field } from '../../../platform/forms/Field.tsx';
import { useAppDispatch, useAppSelector } from '../../../platform/state/hooks.ts';
import { draftTyped } from './drafts.ts';

const ARRIVES: [keyof Arrives, string][] = [
  ['reverseBytes', 'bytes arrive reversed'],
  ['reverseBits', 'bits arrive reversed'],
  ['invert', 'inverted'],
];

export function LineField({
  draftKey,
  layout,
  failure,
  onLayout,
}: {
  draftKey: string;
  layout: Layout;
  failure: Failure | undefined;
  onLayout: (layout: Layout) => void;
}) {
  const { line } = useAppSelector((state) => state.drafts[draftKey]!);
  const dispatch = useAppDispatch();
  const column = failure?.where?.column;
  return (
    <div className="flex flex-wrap items-start gap-x-4 gap-y-2">
      <div className="min-w-80 flex-1">
        <Field label="Layout line">
          {(props) => (
            <textarea
              {...props}
              value={line}
              onChange={(event) => dispatch(draftTyped(draftKey, event.target.value))}
              rows={line.length > 180 ? 4 : 2}
              spellCheck={false}
              data-testid="layout-line"
              aria-invalid={failure !== undefined}
              className="textarea min-h-0 w-full font-mono"
            />
          )}
        </Field>
        {failure && (
          <div role="alert" className="text-signal">
            {column !== undefined && (
              <pre className="overflow-hidden font-mono text-[0.9rem] whitespace-pre text-base-content">
                {`…${line.slice(Math.max(0, column - 30), column + 30)}\n${' '.repeat(Math.min(column, 30))}^`}
              </pre>
            )}
            <strong>
              {column !== undefined && `Column ${column}: `}
              {failure.message}
            </strong>{' '}
            {failure.hint}
          </div>
        )}
      </div>
      <Length layout={layout} onLayout={onLayout} />
      <fieldset className="flex flex-col pt-4">
        <legend className="sr-only">How the bits arrive</legend>
        {ARRIVES.map(([name, words]) => (
          <label key={name} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={layout.arrives[name]}
              onChange={(event) =>
                onLayout({ ...layout, arrives: { ...layout.arrives, [name]: event.target.checked } })
              }
            />
            {words}
          </label>
        ))}
      </fieldset>
    </div>
  );
}

/** The length changes when it is done being typed: cutting spans off on the way to 26 by way of 2 would lose them. */
function Length({ layout, onLayout }: { layout: Layout; onLayout: (layout: Layout) => void }) {
  const [text, setText] = useState(String(layout.bits));
  useEffect(() => setText(String(layout.bits)), [layout.bits]);
  const bits = Number(text);
  const valid = /^\d{1,3}$/.test(text) && bits >= 1 && bits <= 512;
  const commit = () => {
    if (valid && bits !== layout.bits) onLayout(resize(layout, bits));
  };
  return (
    <Field label="Length" className="w-28" error={valid ? undefined : 'A format has 1 to 512 bits.'}>
      {(props) => (
        <input
          {...props}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === 'Enter' && commit()}
          inputMode="numeric"
          autoComplete="off"
          data-testid="length"
          className="input w-full font-mono"
        />
      )}
    </Field>
  );
}
