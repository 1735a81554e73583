/** A box being entered or taken back: how far it is, and stopping it. */
import { useEffect, useRef } from 'react';
import { api } from '../../../platform/api/api.ts';
import { useBoxWorkQuery, useCancelBoxWorkMutation } from '../../../platform/endpoints/boxes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';

const ASK_MS = 400;

interface Props {
  work: string;
  /** `box` is null where it was taken back. */
  onDone: (box: string | null) => void;
  /** It failed or was stopped, and nothing of it is kept. */
  onStopped: () => void;
}

export function BoxWork({ work, onDone, onStopped }: Props) {
  const { id: site } = useSite();
  const dispatch = useAppDispatch();
  const { data, error } = useBoxWorkQuery({ site, id: work }, { pollingInterval: ASK_MS });
  const [cancel] = useCancelBoxWorkMutation();
  const told = useRef(false);
  useEffect(() => {
    if (!data || told.current || data.state === 'running' || data.state === 'failed') return;
    told.current = true;
    if (data.state === 'cancelled') {
      dispatch(said('Stopped: nothing of it was kept'));
      onStopped();
      return;
    }
    dispatch(api.util.invalidateTags(['Cards']));
    dispatch(
      said(data.does === 'enter' ? `${data.name} is on file: ${data.total} cards` : `${data.name} was taken back`),
    );
    onDone(data.box);
  }, [data, dispatch, onDone, onStopped]);
  if (!data) return <FailureNote failure={error} />;
  if (data.state === 'failed')
    return (
      <div role="alert" className="flex flex-col gap-2">
        <p className="text-signal">{data.message} Nothing of it was kept.</p>
        <button type="button" className="btn btn-line self-start" onClick={onStopped}>
          Go back
        </button>
      </div>
    );
  return (
    <div className="flex flex-col gap-2" data-testid="box-work">
      <p>
        {data.does === 'enter' ? 'Entering' : 'Taking back'} {data.name}: {data.done.toLocaleString('en')} of{' '}
        {data.total.toLocaleString('en')}
      </p>
      <progress className="progress w-full" value={data.done} max={data.total} aria-label="Progress" />
      <button type="button" className="btn btn-line self-start" onClick={() => void cancel({ site, id: work })}>
        Stop, and keep nothing
      </button>
    </div>
  );
}
