/** Several pasted lines as several reads: counted and looked through before any of them is taken, each with what it is or why it is none. */
import { MOST_LINES, NOTATIONS, type TakenLine } from '@rawbits/core/intake';
import { useEffect, useRef } from 'react';
import { useKeepReadsMutation } from '../platform/endpoints/reads.ts';
import { FailureNote, type Told } from '../platform/forms/FailureNote.tsx';
import { said } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';

/** More rows say nothing more; the others are counted. */
const MOST_SHOWN = 200;

export function SeveralReads({ lines, onClose }: { lines: readonly TakenLine[]; onClose: () => void }) {
  const { id, may } = useSite();
  const [keepReads, { isLoading, error }] = useKeepReadsMutation();
  const dispatch = useAppDispatch();
  const dialog = useRef<HTMLDialogElement>(null);
  const good = lines.filter(({ readings }) => readings);
  const bad = lines.length - good.length;
  // What is wrong is looked at first.
  const shown = [...lines.filter((line) => line.failure), ...good].slice(0, MOST_SHOWN);
  useEffect(() => dialog.current!.showModal(), []);

  const take = async () => {
    const reads = good.map(({ readings: [first] = [] }) => ({
      bits: first!.bits.toBinary(),
      notation: NOTATIONS[first!.notation] as string,
    }));
    const { data } = await keepReads({ site: id, reads });
    if (!data) return;
    dispatch(said(`${data.kept} reads taken`));
    onClose();
  };
  return (
    <dialog
      ref={dialog}
      onClose={onClose}
      aria-labelledby="several-reads"
      className="panel m-auto w-[min(60rem,95vw)] p-5 backdrop:bg-base-content/40"
    >
      <h2 id="several-reads" className="text-lg font-bold">
        {lines.length} lines, each a read of its own
      </h2>
      <p className="mt-1">
        {good.length} can be taken
        {bad > 0 &&
          `; ${bad} cannot, and ${bad === 1 ? 'is' : 'are'} left where ${bad === 1 ? 'it' : 'they'} came from`}
        .
      </p>
      <div className="mt-3 max-h-[50vh] overflow-auto border border-base-300">
        <table className="grid-table">
          <thead className="sticky top-0 bg-base-100">
            <tr>
              <th scope="col">Row</th>
              <th scope="col">Pasted</th>
              <th scope="col">Taken as</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((line) => (
              <tr key={`${line.row} ${line.part ?? 0}`} className={line.failure ? 'text-signal' : undefined}>
                <td className="tabular-nums">{line.row}</td>
                <td className="max-w-80 truncate font-mono" title={line.text}>
                  {line.text}
                </td>
                <td>
                  <TakenAs line={line} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {lines.length > shown.length && (
        <p className="mt-1 text-ink-2">{lines.length - shown.length} more are not shown.</p>
      )}
      {good.length > MOST_LINES && (
        <p className="mt-2 text-signal">
          At most {MOST_LINES.toLocaleString('en')} are taken at once: paste fewer, or put them in a case.
        </p>
      )}
      <FailureNote failure={error as Told | undefined} id="several-failure" />
      <div className="mt-4 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-primary"
          disabled={isLoading || good.length === 0 || good.length > MOST_LINES || !may('take reads')}
          onClick={() => void take()}
        >
          Take {good.length === 1 ? 'the one read' : `the ${good.length} reads`}
        </button>
        <button type="button" className="btn" onClick={() => dialog.current!.close()}>
          Take none
        </button>
        {!may('take reads') && <p className="self-center text-ink-2">You may look at reads, and not take any.</p>}
      </div>
    </dialog>
  );
}

function TakenAs({ line: { readings, failure, passedOver } }: { line: TakenLine }) {
  if (failure) return <>{failure.message}</>;
  const [first, ...others] = readings!;
  return (
    <>
      {first!.bits.length} bits, {NOTATIONS[first!.notation]}
      {others.length > 0 && (
        <span className="text-ink-2">
          {' '}
          · or {others.length} other {others.length === 1 ? 'way' : 'ways'}
        </span>
      )}
      {passedOver && <span className="text-ink-2"> · passed over: {passedOver}</span>}
    </>
  );
}
