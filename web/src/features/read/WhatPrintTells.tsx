/** Where the print is not that of the read as it was taken: another reading of the same text that it bears out, or a case to find the format. */
import { partingCard } from '@rawbits/core/identify';
import { useMemo } from 'react';
import { type ReadInHand, readingChosen } from '../../parts/inHand/slice.ts';
import { useStartCaseMutation } from '../../platform/endpoints/cases.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { borneOut, type FitRow, type ReadView } from './view.ts';

export function WhatPrintTells({ inHand, printed, view }: { inHand: ReadInHand; printed: string; view: ReadView }) {
  const { id } = useSite();
  const { data: formats } = useFormatsQuery(id);
  const others = useMemo(
    () => borneOut(inHand.readings, inHand.bits, formats ?? [], printed),
    [inHand, formats, printed],
  );
  const rows = useMemo(() => [...view.rows, ...others.flatMap((other) => other.rows)], [view.rows, others]);
  const dispatch = useAppDispatch();
  const agrees = view.rows.some((row) => row.fit === 'full' && row.print);
  if (view.prints.length === 0) return null;
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
      <Rivals rows={rows} />
      {!agrees && others.length === 0 && <ToCase inHand={inHand} printed={printed} />}
    </div>
  );
}

/** More are not weighed against one another. */
const MOST_RIVALS = 8;

/** Several formats give this very number: how many, of which lengths, and which card would tell them apart. */
function Rivals({ rows }: { rows: readonly FitRow[] }) {
  const agreeing = useMemo(() => rows.filter((row) => row.fit === 'full' && row.print === 'number'), [rows]);
  const parting = useMemo(() => partingCard(agreeing.slice(0, MOST_RIVALS)), [agreeing]);
  if (agreeing.length < 2) return null;
  const lengths = [...new Set(agreeing.map(({ format }) => format.bits))].sort((a, b) => a - b);
  return (
    <p data-testid="rivals">
      A card with this number agrees with {agreeing.length} formats, of {lengths.join(', ')} bits.{' '}
      {parting ? (
        <>
          A card that would tell {parting.leaves === 1 ? 'them' : `all but ${parting.leaves} of them`} apart:{' '}
          <strong className="font-mono">{parting.printed}</strong>.
        </>
      ) : (
        'No one card that was tried tells them apart: read a few, and start a case.'
      )}
    </p>
  );
}

function ToCase({ inHand, printed }: { inHand: ReadInHand; printed: string }) {
  const { id: site, may } = useSite();
  const [start, { error, isLoading }] = useStartCaseMutation();
  const navigate = useNavigateFromHere();
  if (!may('identify cards')) return null;
  const begin = async () => {
    const specimens = [{ bits: inHand.bits, source: inHand.from, printed }];
    const { data } = await start({ site, name: `${inHand.bits.length} bits, ${printed}`.slice(0, 120), specimens });
    if (data) navigate(`/${site}/identify/${data.id}`);
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
