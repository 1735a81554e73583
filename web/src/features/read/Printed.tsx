/** "What is printed on it?": every fit and every window that gives that number. */
import { windowInWords } from '@rawbits/core/identify';
import { printedTyped, printFocused, windowChosen } from '../../parts/inHand/slice.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { OFFERED } from '../../platform/words/offered.ts';
import type { ReadView } from './view.ts';

const SHOWN = 6;

export function Printed({ view }: { view: ReadView }) {
  const printed = useAppSelector((state) => state.read.printed);
  const dispatch = useAppDispatch();
  const agreeing = view.rows.filter((row) => row.print);
  return (
    <section>
      <Field label="What is printed on it?">
        {(props) => (
          <input
            {...props}
            data-search
            data-printed
            value={printed}
            onChange={(event) => dispatch(printedTyped(event.target.value))}
            onKeyDown={(event) => {
              if (event.key !== 'Enter') return;
              // The same key must not press the button that it leads to.
              event.preventDefault();
              document.querySelector<HTMLElement>(OFFERED)?.focus();
            }}
            onFocus={() => dispatch(printFocused(true))}
            onBlur={() => dispatch(printFocused(false))}
            placeholder="as on the card"
            autoComplete="off"
            className="input w-full max-w-60 font-mono text-[1.15rem]"
          />
        )}
      </Field>
      <FailureNote failure={view.printFailure} />
      {view.prints.length > 0 && (
        <div className="mt-1" aria-live="polite">
          {agreeing.map((row) => (
            <p key={row.format.id} className="text-primary">
              <strong>{row.format.name}</strong> gives it as {row.print === 'number' ? 'its number' : row.print}.
            </p>
          ))}
          <Windows view={view} />
        </div>
      )}
    </section>
  );
}

function Windows({ view }: { view: ReadView }) {
  const { windows, moreWindows } = view;
  const windowIndex = useAppSelector((state) => state.read.windowIndex);
  const dispatch = useAppDispatch();
  if (windows.length === 0)
    return <p className="text-signal">The number stands nowhere in these bits, in no order of bits or bytes.</p>;
  const rest = windows.length - Math.min(windows.length, SHOWN) + moreWindows;
  return (
    <p className="text-ink-2">
      Found at{' '}
      {windows.slice(0, SHOWN).map((window, i) => (
        <button
          key={windowInWords(window)}
          type="button"
          className="switch-link mr-2 text-left underline decoration-dotted underline-offset-4"
          aria-pressed={windowIndex === i}
          title="Mark it on the tape"
          onClick={() => dispatch(windowChosen(windowIndex === i ? null : i))}
        >
          {windowInWords(window)}
        </button>
      ))}
      {rest > 0 && ` and ${rest} more places: so short a number stands in many`}
    </p>
  );
}
