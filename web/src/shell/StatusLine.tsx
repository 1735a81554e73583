/** What was done last, in words: seen for a while, and heard by screen readers. */
import { useEffect, useState } from 'react';
import { useAppSelector } from '../platform/state/hooks.ts';

const SEEN_MS = 6000;

export function StatusLine() {
  const said = useAppSelector((state) => state.frame.said);
  const [seen, setSeen] = useState<typeof said>(null);
  useEffect(() => {
    if (!said || said.quiet) return;
    setSeen(said);
    const timer = setTimeout(() => setSeen(null), SEEN_MS);
    return () => clearTimeout(timer);
  }, [said]);
  const isSeen = seen !== null && seen === said;
  return (
    <p
      role="status"
      aria-live="polite"
      data-testid={isSeen ? 'said' : undefined}
      className={
        isSeen
          ? 'panel pointer-events-none fixed bottom-3 left-28 z-40 max-w-[min(40rem,80vw)] border-primary px-4 py-2'
          : 'sr-only'
      }
    >
      {said?.text}
    </p>
  );
}
