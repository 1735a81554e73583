/** A word of Raw Bits where it is first met: pressed, it says what it means, and where the guide tells more. */
import { type ReactNode, useId } from 'react';
import { helpShown } from '../../platform/frame/slice.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

/** What each word means, and the heading of the guide that tells more. */
export const MEANT = {
  case: {
    meaning:
      'An identification under way: cards of one kind that you read, each with what is printed on it, and what they prove about the format.',
    chapter: 'Identify: a worked case, and what its words mean',
  },
  specimen: {
    meaning: 'One read in a case, with the number that is printed on that card.',
    chapter: 'A worked case',
  },
  'tie-breaker': {
    meaning:
      'The card whose reading would settle most of what is still open: look for it in the box, or take one as near to it as there is.',
    chapter: 'Which card to read next',
  },
  'dry run': {
    meaning:
      'What a change would do to every card on file and every read kept, at every door, worked out before anything is saved.',
    chapter: 'Versions, and what a change would do',
  },
} as const;

export function Term({ word, children }: { word: keyof typeof MEANT; children: ReactNode }) {
  const id = useId();
  const dispatch = useAppDispatch();
  return (
    <>
      <button
        type="button"
        popoverTarget={id}
        title={`What is a ${word}?`}
        className="min-h-[24px] cursor-help underline decoration-dotted underline-offset-4 print:no-underline"
      >
        {children}
      </button>
      <span
        id={id}
        popover="auto"
        className="panel m-auto max-w-md p-4 text-left whitespace-normal font-sans text-base font-normal text-base-content"
      >
        <strong className="block">{word}</strong>
        <span className="block">{MEANT[word].meaning}</span>
        <button
          type="button"
          className="switch-link mt-2 underline underline-offset-4"
          popoverTarget={id}
          onClick={() => dispatch(helpShown(MEANT[word].chapter))}
        >
          more in the guide
        </button>
      </span>
    </>
  );
}
