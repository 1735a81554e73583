/** A secret that is shown this once: to be copied now, or made anew. */
import type { ReactNode } from 'react';
import { CopyButton } from '../copy/CopyButton.tsx';

interface Props {
  /** Whose it is. */
  name: string;
  /** What it is called: "token". */
  what: string;
  text: string;
  children?: ReactNode;
  onDone: () => void;
}

export function ShownOnce({ name, what, text, children, onDone }: Props) {
  return (
    <div role="status" className="grid gap-2 border-t border-faint pt-3">
      <p>
        <strong>{name}</strong>: this is the only time that its {what} is shown.
      </p>
      <p className="flex min-w-0 items-center gap-2">
        <code className="min-w-0 font-mono break-all">{text}</code>
        <CopyButton text={text} what={`the ${what}`} />
      </p>
      {children}
      <button type="button" className="btn btn-line justify-self-start" onClick={onDone}>
        I have it
      </button>
    </div>
  );
}
