import { useReadsQuery } from '../../platform/endpoints/reads.ts';
import { rigToggled } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

/** What to do before there is any read. */
export function NoRead() {
  const { id, site } = useSite();
  const { isLoading } = useReadsQuery({ site: id, limit: 60 });
  const dispatch = useAppDispatch();
  if (isLoading) return <p className="p-6">Loading …</p>;
  return (
    <div className="grid max-w-2xl gap-3 p-8">
      <h1>No read yet</h1>
      <p>
        Hold a card to a reader, or paste what another device shows: binary, hex with its length (
        <code className="font-mono">28E4694 26 bits</code>), a decimal with its length, the bytes of a UID, a print such
        as <code className="font-mono">071,09034</code>, an OSDP frame, a BER-TLV bit string, or{' '}
        <code className="font-mono">;digits?</code>.
      </p>
      {site?.hasRig && (
        <button type="button" className="btn btn-primary justify-self-start" onClick={() => dispatch(rigToggled())}>
          Open the rig
        </button>
      )}
    </div>
  );
}
