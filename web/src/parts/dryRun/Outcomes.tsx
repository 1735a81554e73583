/** What a dry run found: the counts, where places differ, and the cards and reads concerned, old beside new. */
import type { DryRunState } from '@rawbits/api';
import { OUTCOMES, type Outcome } from '@rawbits/core/dryrun';
import { useState } from 'react';
import { Ambiguous } from './Ambiguous.tsx';

type Result = NonNullable<DryRunState['result']>;
type Kind = 'cards' | 'reads';

const GRAVEST_FIRST = [...OUTCOMES].reverse();

export function Outcomes({ result }: { result: Result }) {
  const gravest = GRAVEST_FIRST.filter((o) => o !== 'same');
  const first = gravest.find((o) => result.cards[o] > 0) ?? gravest.find((o) => result.reads[o] > 0);
  const [shown, setShown] = useState<{ kind: Kind; outcome: Outcome } | null>(
    first ? { kind: result.cards[first] > 0 ? 'cards' : 'reads', outcome: first } : null,
  );
  const differing = result.places.filter((place) => place.id !== 'site');
  const everywhere =
    ['at the site', `at ${differing[0]?.name}`, 'at both controllers'][differing.length] ?? 'at every controller';
  return (
    <>
      {result.unknownCards > 0 && <Unknown count={result.unknownCards} />}
      <Ambiguous found={result.ambiguous} />
      <div className="shrink-0 overflow-x-auto">
        <table className="grid-table w-auto!" data-testid="outcomes">
          <thead>
            <tr>
              <th>where</th>
              <th>of</th>
              {GRAVEST_FIRST.map((outcome) => (
                <th key={outcome} className="text-right!">
                  {outcome === 'same' ? 'same as before' : outcome}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(['cards', 'reads'] as const).map((kind) => (
              <tr key={kind}>
                <td>{kind === 'cards' ? <strong>{everywhere}</strong> : ''}</td>
                <td className="whitespace-nowrap">{kind === 'cards' ? 'cards on file' : 'reads kept'}</td>
                {GRAVEST_FIRST.map((outcome) => (
                  <Count
                    key={outcome}
                    kind={kind}
                    outcome={outcome}
                    count={result[kind][outcome]}
                    shown={shown}
                    onShow={setShown}
                  />
                ))}
              </tr>
            ))}
            {differing.length > 1 &&
              differing.map((place) => (
                <tr key={place.id}>
                  <td>{place.name}</td>
                  <td>cards</td>
                  {GRAVEST_FIRST.map((outcome) => (
                    <td key={outcome} className="text-right font-mono">
                      {place.cards[outcome].toLocaleString('en')}
                    </td>
                  ))}
                </tr>
              ))}
          </tbody>
        </table>
      </div>
      {shown ? (
        <Examples result={result} {...shown} />
      ) : (
        <p>Every {result.unknownCards > 0 ? 'other card and every' : 'card and'} read is decided as before.</p>
      )}
    </>
  );
}

/** First and loud: of these cards a dry run cannot tell, and none of the numbers below has them. */
function Unknown({ count }: { count: number }) {
  const cards = count === 1 ? '1 card' : `${count.toLocaleString('en')} cards`;
  return (
    <p role="alert" className="shrink-0 border-l-4 border-signal pl-3 text-signal" data-testid="unknown-cards">
      <strong className="text-[1.15rem]">Unknown: {cards} on file.</strong> What bits{' '}
      {count === 1 ? 'it delivers' : 'they deliver'} is not known, so whether the change refuses{' '}
      {count === 1 ? 'it' : 'them'} cannot be told, and no number below counts {count === 1 ? 'it' : 'them'}.
    </p>
  );
}

function Count({
  kind,
  outcome,
  count,
  shown,
  onShow,
}: {
  kind: Kind;
  outcome: Outcome;
  count: number;
  shown: { kind: Kind; outcome: Outcome } | null;
  onShow: (shown: { kind: Kind; outcome: Outcome }) => void;
}) {
  const text = count.toLocaleString('en');
  const signal = outcome === 'newly refused' && count > 0 ? 'font-bold text-signal' : '';
  return (
    <td className={`text-right font-mono ${signal}`} data-testid={`${kind} ${outcome}`}>
      {outcome === 'same' || count === 0 ? (
        text
      ) : (
        <button
          type="button"
          className="cursor-pointer underline underline-offset-4"
          aria-pressed={shown?.kind === kind && shown.outcome === outcome}
          onClick={() => onShow({ kind, outcome })}
        >
          {text}
        </button>
      )}
    </td>
  );
}

const valuesInWords = (values: Record<string, string>): string =>
  Object.entries(values)
    .map(([label, value]) => `${label} ${value}`)
    .join(', ') || 'nothing';

function Examples({ result, kind, outcome }: { result: Result; kind: Kind; outcome: Outcome }) {
  const rows = (kind === 'cards' ? result.cardExamples : result.readExamples).filter((row) => row.outcome === outcome);
  const total = result[kind][outcome];
  return (
    <div className="min-h-40 flex-1 overflow-auto">
      <h3 className="font-bold">
        {total.toLocaleString('en')} {total === 1 ? kind.slice(0, -1) : kind} {outcome}
        {rows.length < total && <span className="font-normal text-ink-2"> · the first {rows.length} rows</span>}
      </h3>
      <table className="grid-table">
        <thead>
          <tr>
            <th>{kind === 'cards' ? 'card' : 'read'}</th>
            <th>where</th>
            <th>as it is set up</th>
            <th>after the change</th>
            <th>why</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={`${row.id} ${row.place}`}>
              <td className={row.name ? 'font-mono whitespace-nowrap' : 'font-mono break-all'}>
                {row.name || row.bits}
                {row.holder && <span className="block font-sans text-ink-2">{row.holder}</span>}
              </td>
              <td>{row.place}</td>
              <td>
                {row.before.opened ? 'let in' : 'refused'} · {valuesInWords(row.before.values)}
              </td>
              <td className={row.outcome === 'newly refused' ? 'text-signal' : ''}>
                {row.after.opened ? 'let in' : 'refused'} · {valuesInWords(row.after.values)}
              </td>
              <td>{row.after.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
