/** What a change of who may pass would do, over the page, before it is saved. */
import type { AccessReview } from '@rawbits/api';
import { useEffect, useRef, useState } from 'react';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { AccessEffect, BreakKnowingly } from './AccessEffect.tsx';
import type { AccessChanging } from './useAccessChange.ts';

interface Props {
  changing: AccessChanging;
  /** What it undoes of somebody who saved meanwhile: who, and what theirs was. */
  undoes?: Undone | undefined;
}
export interface Undone {
  who: string;
  what: readonly string[];
}

export function ChangeReview({ changing, undoes }: Props) {
  const { proposed } = changing;
  return proposed ? <Dialog changing={changing} undoes={undoes} review={proposed.review} /> : null;
}

function Dialog({ changing, undoes, review }: Props & { review: AccessReview }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [breaking, setBreaking] = useState(false);
  useEffect(() => dialog.current!.showModal(), []);
  const { breaks } = review;
  return (
    <dialog
      ref={dialog}
      onClose={changing.cancel}
      aria-label="What this change does"
      className="m-auto max-h-[90vh] w-[min(60rem,95vw)] overflow-auto backdrop:bg-base-content/40"
    >
      <section className="panel flex flex-col gap-3 p-4">
        <h2 className="text-[1.15rem]">What this change does</h2>
        {undoes && undoes.what.length > 0 && (
          <p className="text-signal">
            It undoes what {undoes.who} saved meanwhile: {undoes.what.join('; ')}.
          </p>
        )}
        <AccessEffect review={review} />
        <FailureNote failure={changing.error} />
        <BreakKnowingly breaks={breaks} isBreaking={breaking} onBreaking={setBreaking} />
        <div className="flex gap-2">
          <button
            type="button"
            className="btn btn-primary"
            disabled={changing.busy || (breaks.length > 0 && !breaking)}
            onClick={() => void changing.confirm(breaking)}
          >
            Save
          </button>
          <button type="button" className="btn btn-line" onClick={changing.cancel}>
            Cancel
          </button>
        </div>
      </section>
    </dialog>
  );
}
