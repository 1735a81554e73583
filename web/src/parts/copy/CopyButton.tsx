import { Check, Copy } from 'lucide-react';
import { useState } from 'react';

/** Copies a text; says so for a moment. */
export function CopyButton({ text, what }: { text: string; what: string }) {
  const [done, setDone] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(text);
    setDone(true);
    setTimeout(() => setDone(false), 1500);
  };
  const Icon = done ? Check : Copy;
  return (
    <button
      type="button"
      onClick={() => void copy()}
      aria-label={done ? `copied ${what}` : `copy ${what}`}
      title={done ? 'copied' : `copy ${what}`}
      className="grid size-[24px] shrink-0 cursor-pointer place-items-center hover:text-primary"
    >
      <Icon size={15} aria-hidden="true" />
    </button>
  );
}
