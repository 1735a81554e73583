/** Several pasted lines as several reads: counted and looked through before any of them is taken, each with what it is or why it is none. */
import { MOST_LINES, NOTATIONS, type TakenLine } from '@rawbits/core/intake';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useKeepReadsMutation } from '../platform/endpoints/reads.ts';
import { FailureNote, type Told } from '../platform/forms/FailureNote.tsx';
import { said } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';

/** More rows say nothing more; the others are counted. */
const MOST_SHOWN = 200;

interface Props {
  lines: readonly TakenLine[];
  /** What a line says once it is put right by hand. */
  readAgain: (text: string) => TakenLine[];
  onClose: () => void;
}

export function SeveralReads({ lines: pasted, readAgain, onClose }: Props) {
  const { id, may } = useSite();
  const [keepReads, { isLoading, error }] = useKeepReadsMutation();
  const dispatch = useAppDispatch();
  const dialog = useRef<HTMLDialogElement>(null);
  const [mended, setMended] = useState<Record<number, string>>({});
  const linesOf = useMemo(() => {
    const byRow = new Map<number, TakenLine[]>();
    for (const [row, text] of Object.entries(mended))
      byRow.set(
        Number(row),
        readAgain(text).map((line) => ({ ...line, row: Number(row) })),
      );
    return (line: TakenLine): TakenLine[] => (line.failure && byRow.get(line.row)) || [line];
  }, [mended, readAgain]);
  const lines = pasted.flatMap(linesOf);
  const good = lines.filter(({ readings }) => readings);
  const bad = lines.length - good.length;
  // What is wrong is looked at first, and stays where it is once it is put right.
  const shown = [...pasted.filter((line) => line.failure), ...pasted.filter((line) => !line.failure)].slice(
    0,
    MOST_SHOWN,
  );
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
        {pasted.length} lines, each a read of its own
      </h2>
      <p className="mt-1">
        {good.length} can be taken
        {bad > 0 &&
          `; ${bad} cannot: put ${bad === 1 ? 'it' : 'them'} right here, or ${bad === 1 ? 'it is' : 'they are'} left where ${bad === 1 ? 'it' : 'they'} came from`}
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
              <Row
                key={`${line.row} ${line.part ?? 0}`}
                line={line}
                now={linesOf(line)}
                text={mended[line.row] ?? line.text}
                onMend={line.failure && ((text) => setMended((all) => ({ ...all, [line.row]: text })))}
              />
            ))}
          </tbody>
        </table>
      </div>
      {pasted.length > shown.length && (
        <p className="mt-1 text-ink-2">{pasted.length - shown.length} more are not shown.</p>
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

interface RowProps {
  line: TakenLine;
  /** What it says now: nothing where it was emptied, several where it holds several. */
  now: TakenLine[];
  text: string;
  /** Of a line that cannot be taken: put it right. */
  onMend?: (text: string) => void;
}

function Row({ line: { row, text: pasted }, now, text, onMend }: RowProps) {
  const failing = now.some(({ failure }) => failure);
  return (
    <tr>
      <td className="tabular-nums">{row}</td>
      {onMend ? (
        <td>
          <input
            value={text}
            onChange={(event) => onMend(event.target.value)}
            aria-label={`Row ${row}, put right`}
            aria-invalid={failing}
            autoComplete="off"
            spellCheck={false}
            className="input h-8! w-full min-w-48 font-mono"
          />
        </td>
      ) : (
        <td className="max-w-80 truncate font-mono" title={pasted}>
          {pasted}
        </td>
      )}
      <td className={failing ? 'text-signal' : undefined}>
        {now.length === 0 && 'left out'}
        {now.map((line) => (
          <TakenAs key={line.part ?? 0} line={line} />
        ))}
      </td>
    </tr>
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
