/** What was done to a card of a run, step by step, with the commands; kept as a file, and played on a simulated card. */
import type { Run, RunCard } from '@rawbits/api';
import { Exchange } from '../../../parts/exchange/Exchange.tsx';
import {
  useLazyKeptExchangeQuery,
  usePlayExchangeMutation,
  useRunStepsQuery,
} from '../../../platform/endpoints/runs.ts';
import { download } from '../../../platform/files/download.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { clock } from '../../../platform/words/time.ts';
import { cardStepWords } from '../words/words.ts';
import { PlayedAgain } from './PlayedAgain.tsx';

export function CardSteps({ run, card }: { run: Run; card: RunCard }) {
  const { id: site, zone } = useSite();
  const { data = [], error } = useRunStepsQuery({ site, id: run.id, seq: String(card.seq) });
  return (
    <>
      <FailureNote failure={error} />
      {data.length > 0 && <Whole run={run} card={card} />}
      <ol className="grid gap-1">
        {data.map(({ n, step, at, exchange }) => (
          <li key={n}>
            <details>
              <summary className="cursor-pointer">
                <span className="font-mono text-[0.9rem] text-ink-2">
                  {n + 1} · {clock(at, zone)}
                </span>{' '}
                {cardStepWords(step)}
                <span className="text-[0.9rem] text-ink-2">
                  {exchange
                    ? ` · ${exchange.length} ${exchange.length === 1 ? 'command' : 'commands'}`
                    : ' · its commands were not kept'}
                </span>
              </summary>
              {exchange && <Exchange lines={exchange} label={`Commands of step ${n + 1}`} />}
            </details>
          </li>
        ))}
      </ol>
    </>
  );
}

/** Everything that was said to this card, also in the runs before. */
function Whole({ run, card }: { run: Run; card: RunCard }) {
  const { id: site, may } = useSite();
  const [fetch, fetched] = useLazyKeptExchangeQuery();
  const [play, played] = usePlayExchangeMutation();
  const kept = () => fetch({ site, id: run.id, seq: String(card.seq) }).unwrap();
  const keep = async () => {
    const all = await kept();
    download(`${all.card.replace('/', '-')}, commands.json`, JSON.stringify(all, null, 2), 'application/json');
  };
  const again = async () => play({ params: { site }, body: await kept() });
  return (
    <div className="mb-2 grid gap-2">
      <div className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-line btn-small" onClick={() => void keep().catch(() => {})}>
          Keep all commands as a file
        </button>
        {may('encode cards') && (
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={played.isLoading}
            onClick={() => void again().catch(() => {})}
          >
            Play them on a simulated card
          </button>
        )}
      </div>
      <FailureNote failure={fetched.error ?? played.error} />
      {fetched.data && played.data && <PlayedAgain kept={fetched.data} played={played.data} />}
    </div>
  );
}
