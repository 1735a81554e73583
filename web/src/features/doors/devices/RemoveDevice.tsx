/** What goes with a controller or a reader and what stays outside, and removing it as it is shown. */
import type { Removal } from '@rawbits/api';
import {
  useControllerRemovalQuery,
  useReaderRemovalQuery,
  useRemoveControllerMutation,
  useRemoveReaderMutation,
} from '../../../platform/endpoints/doors.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

interface Props {
  id: string;
  onClose: () => void;
}

export function RemoveController({ id, onClose }: Props) {
  const { id: site } = useSite();
  const [remove, { error: refused, isLoading, isSuccess }] = useRemoveControllerMutation();
  // What is gone is not asked for again by the news of its going.
  const { data, error } = useControllerRemovalQuery({ site, id }, { skip: isLoading || isSuccess });
  return (
    <RemovalReview
      removal={data}
      failure={refused ?? error}
      busy={isLoading}
      onRemove={(seen) => void remove({ site, id, seen })}
      onClose={onClose}
    />
  );
}

export function RemoveReader({ id, onClose }: Props) {
  const { id: site } = useSite();
  const [remove, { error: refused, isLoading, isSuccess }] = useRemoveReaderMutation();
  // What is gone is not asked for again by the news of its going.
  const { data, error } = useReaderRemovalQuery({ site, id }, { skip: isLoading || isSuccess });
  return (
    <RemovalReview
      removal={data}
      failure={refused ?? error}
      busy={isLoading}
      onRemove={(seen) => void remove({ site, id, seen })}
      onClose={onClose}
    />
  );
}

interface ReviewProps {
  removal: Removal | undefined;
  failure: Parameters<typeof FailureNote>[0]['failure'];
  busy: boolean;
  onRemove: (seen: string) => void;
  onClose: () => void;
}

const names = (some: readonly { name: string }[]): string => some.map(({ name }) => name).join(', ');

function RemovalReview({ removal, failure, busy, onRemove, onClose }: ReviewProps) {
  if (!removal) return failure ? <FailureNote failure={failure} /> : <p role="status">Loading …</p>;
  const removed = removal.assertions.filter((one) => one.removed);
  const rows = [
    ['Readers removed', names(removal.readers)],
    ['Doors removed', names(removal.doors)],
    ['Access groups that lose a door', names(removal.groups)],
    ['Assertions removed', names(removed)],
    ['Assertions that lose a door', names(removal.assertions.filter((one) => !one.removed))],
  ].filter(([, what]) => what !== '');
  return (
    <section className="my-2 grid gap-2 border-l-4 border-signal pl-3" aria-label={`Remove ${removal.name}`}>
      <h3 className="font-bold">Remove {removal.name}</h3>
      {rows.length === 0 && <p>Nothing else is removed with it.</p>}
      <dl className="grid grid-cols-[minmax(0,14rem)_minmax(0,1fr)] gap-x-3 gap-y-1 max-md:grid-cols-1">
        {rows.map(([what, which]) => (
          <div key={what} className="contents">
            <dt className="text-ink-2">{what}</dt>
            <dd>{which}</dd>
          </div>
        ))}
      </dl>
      {removal.stays.map((sentence) => (
        <p key={sentence} className="font-bold text-signal">
          {sentence}
        </p>
      ))}
      <p className="text-ink-2">Events and reads keep the names. The trail keeps what was removed.</p>
      <FailureNote failure={failure} />
      <p className="flex gap-2">
        <button type="button" className="btn btn-line" disabled={busy} onClick={() => onRemove(removal.digest)}>
          Remove {removal.name}
        </button>
        <button type="button" className="btn btn-line" onClick={onClose}>
          Cancel
        </button>
      </p>
    </section>
  );
}
