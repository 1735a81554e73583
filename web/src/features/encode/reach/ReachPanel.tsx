/** Reach beside a plan: whose keys, what they can do by any sequence of commands, and what must stay true of it. */
import type { ChipPlan } from '@rawbits/api';
import type { ExchangeLine } from '@rawbits/core/host';
import { useState } from 'react';
import { Exchange } from '../../../parts/exchange/Exchange.tsx';
import { Checks } from '../../../platform/forms/controls.tsx';
import { Assertions } from './Assertions.tsx';
import type { Answer, Can } from './reach.worker.ts';
import { grouped, stepWords } from './words.ts';

interface Props {
  plan: ChipPlan;
  names: readonly string[];
  keys: readonly string[];
  onKeys: (keys: string[]) => void;
  answer: Answer | undefined;
  busy: boolean;
  play: (plan: ChipPlan, steps: readonly { do: string }[]) => Promise<ExchangeLine[]>;
  onWalk: () => void;
  onChange?: (assertions: ChipPlan['assertions']) => void;
}

export function ReachPanel({ plan, names, keys, onKeys, answer, busy, play, onWalk, onChange }: Props) {
  const [way, setWay] = useState<Can>();
  const show = (can: Can) => setWay(can.can === way?.can ? undefined : can);
  return (
    <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="Reach">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2>Reach</h2>
        <span className="text-[0.9rem] text-ink-2" role="status">
          {busy || !answer
            ? 'going through every state of the card …'
            : `every state gone through in ${Math.round(answer.ms)} ms`}
        </span>
      </div>
      <Assertions
        plan={plan}
        names={names}
        held={answer?.held}
        sayable={answer?.sayable}
        onShow={show}
        onChange={onChange}
      />
      <fieldset className="grid gap-0.5 border-t border-faint pt-2" hidden={names.length === 0}>
        <legend className="field-label">What can somebody do who has</legend>
        <Checks names={names} chosen={keys} onChange={onKeys} />
      </fieldset>
      <div className="flex flex-wrap items-center gap-2">
        <button type="button" className="btn btn-line btn-small" onClick={onWalk} disabled={!answer}>
          Walk
        </button>
        <span className="text-[0.9rem] text-ink-2">
          {keys.length === 0 ? 'nobody’s keys: what is open to everybody' : `${keys.join(' and ')}, and the factory’s`}
        </span>
      </div>
      {answer?.abilities.length === 0 && <p>Nothing at all. Proven for the model of the chip.</p>}
      {grouped(answer?.abilities ?? [], plan.kind === 'tag' ? 'the tag' : 'the card').map(([about, abilities]) => (
        <div key={about}>
          <h3 className="font-mono text-[0.9rem] text-ink-2">{about}</h3>
          <ul>
            {abilities.map((ability) => (
              <li key={ability.can}>
                <button
                  type="button"
                  className="grid min-h-[24px] w-full cursor-pointer grid-cols-[1fr_auto] gap-2 text-left hover:bg-chosen aria-expanded:bg-chosen"
                  aria-expanded={way?.can === ability.can}
                  onClick={() => show(ability)}
                >
                  <span>{ability.can.replace(` of ${about}`, '')}</span>
                  <span className="text-[0.9rem] text-ink-2">
                    {ability.by.length} {ability.by.length === 1 ? 'step' : 'steps'}
                  </span>
                </button>
                {way?.can === ability.can && <Way plan={plan} way={way} play={play} />}
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

/** How it is done, step by step, and played on a simulated card. */
export function Way({ plan, way, play }: { plan: ChipPlan; way: Can; play: Props['play'] }) {
  const [lines, setLines] = useState<ExchangeLine[]>();
  const [failure, setFailure] = useState('');
  const run = async () => {
    try {
      setLines(await play(plan, way.by));
    } catch (error) {
      setFailure((error as Error).message);
    }
  };
  return (
    <div className="border-l-2 border-primary py-1 pl-2">
      <ol className="list-decimal pl-5 text-[0.9rem]">
        {way.by.map((step, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the steps of a way stand in their order.
          <li key={i}>{stepWords(step)}</li>
        ))}
      </ol>
      {!lines && (
        <button type="button" className="btn btn-line btn-small mt-1" onClick={() => void run()}>
          Play it on a simulated card
        </button>
      )}
      {failure && <p className="text-signal">{failure}</p>}
      {lines && <Exchange lines={lines} label="Played on a simulated card" />}
    </div>
  );
}
