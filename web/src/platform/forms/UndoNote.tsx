/** What was deleted just now, and the way back. It takes the focus that the deleted thing had. */
import { useEffect, useRef } from 'react';
import { FailureNote } from './FailureNote.tsx';

interface Props {
  text: string;
  onUndo: () => void;
  isLoading: boolean;
  failure?: Parameters<typeof FailureNote>[0]['failure'];
}

export function UndoNote({ text, onUndo, isLoading, failure }: Props) {
  const button = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another text is another thing deleted
  useEffect(() => button.current?.focus(), [text]);
  return (
    <div role="status" data-testid="removed" className="flex flex-wrap items-center gap-2">
      {text}
      <button ref={button} type="button" className="btn btn-line btn-small" disabled={isLoading} onClick={onUndo}>
        Undo
      </button>
      <FailureNote failure={failure} />
    </div>
  );
}
