/** Commands and answers as two lanes with time running down; each is taken apart field by field when it is opened. */
import { type ExchangeLine, type Explained, explainedLine } from '@rawbits/core/host';
import { useState } from 'react';

export function Exchange({ lines, label }: { lines: readonly ExchangeLine[]; label: string }) {
  const [open, setOpen] = useState<number>();
  return (
    <table className="grid-table" aria-label={label}>
      <thead>
        <tr>
          <th scope="col">to the card</th>
          <th scope="col">from the card</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line, i) => {
          const { command, answer } = line;
          const { asked, told } = explainedLine(line);
          const isOpen = open === i;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines are only ever added at the end.
            <tr key={i}>
              <td className="border-l-2 border-l-base-content">
                <button
                  type="button"
                  aria-expanded={isOpen}
                  className="cursor-pointer text-left underline decoration-dotted underline-offset-4"
                  onClick={() => setOpen(isOpen ? undefined : i)}
                >
                  {asked.name}
                </button>
                {isOpen ? <Parts of={asked} whole={command} /> : <Brief of={asked} />}
              </td>
              <td className="border-l-2 border-l-secondary">
                <span className={told.name === 'done' || told.name === 'more follows' ? '' : 'font-bold text-signal'}>
                  {told.name}
                </span>
                {isOpen && <Parts of={told} whole={answer} />}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** The short fields of a command, on its line. */
function Brief({ of }: { of: Explained }) {
  const short = of.parts.filter(({ hex }) => hex.length > 0 && hex.length <= 6);
  return (
    <span className="pl-2 font-mono text-[0.9rem] text-ink-2">
      {short.map(({ what, hex }) => `${what} ${hex}`).join(', ')}
    </span>
  );
}

function Parts({ of, whole }: { of: Explained; whole: string }) {
  return (
    <dl className="grid max-w-xl grid-cols-[auto_1fr] gap-x-3 py-1 text-[0.9rem]">
      {of.parts.map(({ what, hex }) => (
        <div key={what} className="contents">
          <dt className="text-ink-2">{what}</dt>
          <dd className="font-mono break-all">{hex || 'not kept'}</dd>
        </div>
      ))}
      <dt className="text-ink-2">in all</dt>
      <dd className="font-mono break-all">{/^[0-9A-F]+$/.test(whole) ? whole.replace(/(..)(?=.)/g, '$1 ') : whole}</dd>
    </dl>
  );
}
