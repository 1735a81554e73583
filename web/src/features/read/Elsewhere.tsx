/** The same read as other devices would show it, each line to copy. */
import { Bits } from '@rawbits/core/bits';
import { renderings } from '@rawbits/core/translate';
import { useMemo } from 'react';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';

export function Elsewhere({ bits }: { bits: string }) {
  const lines = useMemo(() => renderings(Bits.fromBinary(bits)), [bits]);
  const shown = lines.filter((line) => line.text !== undefined);
  const missing = lines.filter((line) => line.text === undefined);
  return (
    <section>
      <h2>The same read elsewhere</h2>
      <ul>
        {shown.map(({ id, name, text }) => (
          <li key={id} className="flex items-start gap-2 border-t border-faint py-0.5">
            <span className="w-[9.5rem] shrink-0 text-ink-2">{name}</span>
            <span className="min-w-0 flex-1 font-mono break-all">{text}</span>
            <CopyButton text={text!} what={name} />
          </li>
        ))}
      </ul>
      {missing.length > 0 && (
        <p className="mt-1 text-[0.9rem] text-ink-2">
          Not for this length: {missing.map((line) => line.name).join('; ')}.
        </p>
      )}
    </section>
  );
}
