/** What a change of who may pass would do, over the page, before it is saved. */
import type { AccessReview } from '@rawbits/api';
import { useEffect, useRef, useState } from 'react';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { counted } from '../../platform/words/words.ts';
import { BrokenBy } from './BrokenBy.tsx';
import type { AccessChanging } from './useAccessChange.ts';

export function ChangeReview({ changing }: { changing: AccessChanging }) {
  const { proposed } = changing;
  return proposed ? <Dialog changing={changing} review={proposed.review} /> : null;
}

function Dialog({ changing, review }: { changing: AccessChanging; review: AccessReview }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [breaking, setBreaking] = useState(false);
  useEffect(() => dialog.current!.showModal(), []);
  const { gains, losses, breaks, controllers } = review;
  return (
    <dialog
      ref={dialog}
      onClose={changing.cancel}
      aria-label="What this change does"
      className="m-auto max-h-[90vh] w-[min(60rem,95vw)] overflow-auto backdrop:bg-base-content/40"
    >
      <section className="panel flex flex-col gap-3 p-4">
        <h2 className="text-[1.15rem]">What this change does</h2>
        {breaks.map(({ id, name, broken }) => (
          <div key={id} className="text-signal">
            <p>
              <strong>“{name}” would hold no more.</strong>
            </p>
            <BrokenBy broken={broken} />
          </div>
        ))}
        <Moved title="Loses" sign="−" rows={losses} />
        <Moved title="Gains" sign="+" rows={gains} />
        <p className="text-ink-2">
          {controllers.length === 0
            ? 'No controller has anything to be loaded for it.'
            : `It reaches the doors with the next load of ${controllers.join(', ')}.`}
        </p>
        <FailureNote failure={changing.error} />
        {breaks.length > 0 && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={breaking}
              onChange={(event) => setBreaking(event.target.checked)}
            />
            break {breaks.length === 1 ? 'it' : 'them'} knowingly; the trail keeps who did
          </label>
        )}
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

function Moved({ title, sign, rows }: { title: string; sign: string; rows: AccessReview['gains'] }) {
  if (rows.length === 0) return null;
  return (
    <table className="grid-table" aria-label={title}>
      <thead>
        <tr>
          <th>{title}</th>
          <th>Door</th>
          <th>When</th>
          <th>First</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={`${row.door} ${row.way} ${row.when} ${row.first}`}>
            <td>
              <span className="font-mono font-bold">{sign}</span> {row.names.join(', ')}
              {row.people > row.names.length &&
                ` and ${(row.people - row.names.length).toLocaleString('en')} more: ${counted(row.people, 'person', 'people')}`}
            </td>
            <td>
              {row.door}, {row.way}
            </td>
            <td>{row.when}</td>
            <td className="whitespace-nowrap font-mono">{row.first}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
