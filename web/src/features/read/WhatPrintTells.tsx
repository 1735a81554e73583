/** Where the print is not that of the read as it was taken: another reading of the same text that it bears out, or a case to find the format. */
import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { type ReadInHand, readingChosen } from '../../parts/inHand/slice.ts';
import { useStartCaseMutation } from '../../platform/endpoints/cases.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { borneOut, type ReadView } from './view.ts';

export function WhatPrintTells({ inHand, printed, view }: { inHand: ReadInHand; printed: string; view: ReadView }) {
  const { id } = useSite();
  const { data: formats } = useFormatsQuery(id);
  const others = useMemo(
    () => borneOut(inHand.readings, inHand.bits, formats ?? [], printed),
    [inHand, formats, printed],
  );
  const dispatch = useAppDispatch();
  const agrees = view.rows.some((row) => row.fit === 'full' && row.print);
  if (view.prints.length === 0 || (agrees && others.length === 0)) return null;
  return (
    <div className="flex flex-col gap-2" aria-live="polite">
      {others.map(({ reading, rows: [first, ...more] }) => (
        <p key={`${reading.notation} ${reading.bits}`}>
          Read as {reading.notation}, {reading.bits.length} bits, <strong>{first!.format.name}</strong>
          {more.length > 0 && ` and ${more.length} more`} {more.length > 0 ? 'give' : 'gives'} the print.{' '}
          <button type="button" className="btn btn-sm" onClick={() => dispatch(readingChosen(reading))}>
            Read it so
          </button>
        </p>
      ))}
      {!agrees && others.length === 0 && <ToCase inHand={inHand} printed={printed} />}
    </div>
  );
}

function ToCase({ inHand, printed }: { inHand: ReadInHand; printed: string }) {
  const { id: site, may } = useSite();
  const [start, { error, isLoading }] = useStartCaseMutation();
  const navigate = useNavigate();
  if (!may('identify cards')) return null;
  const begin = async () => {
    const specimens = [{ bits: inHand.bits, source: inHand.from, printed }];
    const { data } = await start({ site, name: `${inHand.bits.length} bits, ${printed}`.slice(0, 120), specimens });
    if (data) void navigate(`/${site}/identify/${data.id}`);
  };
  return (
    <div>
      <button type="button" className="btn" disabled={isLoading} onClick={() => void begin()}>
        Start a case with this read
      </button>
      <p className="mt-1 text-ink-2">A few more of these cards, with their prints, show what the format is.</p>
      <FailureNote failure={error as Told | undefined} />
    </div>
  );
}
