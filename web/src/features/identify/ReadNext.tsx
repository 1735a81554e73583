/** Which card to read next, and what each card so far has settled. */
import type { GroupFinding } from '@rawbits/core/identify';
import { useState } from 'react';
import { Term } from '../../parts/term/Term.tsx';
import type { Step } from './identify.worker.ts';
import { OpenChart } from './OpenChart.tsx';
import type { WorkingCase } from './useCase.ts';

export function ReadNext({ finding, working, steps }: { finding: GroupFinding; working: WorkingCase; steps: Step[] }) {
  const { tieBreaker, checks, range } = finding;
  return (
    <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="Read this one next">
      <h2>
        Read this one next: the <Term word="tie-breaker">tie-breaker</Term>
      </h2>
      {tieBreaker ? (
        <div data-testid="tie-breaker">
          <p className="flex flex-wrap items-baseline gap-x-3">
            <span className="font-mono text-[1.6rem] font-bold">{tieBreaker.printed}</span>
            {tieBreaker.from !== tieBreaker.to && (
              <span className="text-ink-2">
                or any from {Number(tieBreaker.from).toLocaleString('en')} to{' '}
                {Number(tieBreaker.to).toLocaleString('en')}
              </span>
            )}
          </p>
          <p>{tieBreaker.words}</p>
          {tieBreaker.until != null && (
            <p data-testid="until">
              {tieBreaker.until === 0
                ? 'With it the bits of all the box are most likely settled.'
                : `Most likely ${tieBreaker.until} more ${tieBreaker.until === 1 ? 'card' : 'cards'} until the bits of all the box are settled.`}
            </p>
          )}
          <p className="text-ink-2">
            {range && range.until > 0
              ? `At most ${range.until} more ${range.until === 1 ? 'card' : 'cards'} of this box until all of it is proven, each from another part of it.`
              : tieBreaker.atMost === 0
                ? 'Everything is settled already.'
                : `At most ${tieBreaker.atMost} more ${tieBreaker.atMost === 1 ? 'card' : 'cards'} until every number bit is proven.`}
          </p>
        </div>
      ) : (
        <p className="text-ink-2">
          {finding.consistent ? 'Nothing is left to settle.' : 'First look at the suspects: these cards do not agree.'}
        </p>
      )}
      <BoxRange working={working} />
      <p className={checks === 0 ? 'text-signal' : 'text-ink-2'} data-testid="checks-left">
        {checks === 0
          ? 'No check is left over: a mistyped or swapped print would not show. One more card gives one.'
          : `${checks} ${checks === 1 ? 'check' : 'checks'} left over, ${finding.consistent ? 'all of them hold' : 'not all of them hold'}.`}
      </p>
      {steps.length > 1 && <OpenChart steps={steps} />}
    </section>
  );
}

/** The numbers of the box, so that the card named is one that is there. */
function BoxRange({ working }: { working: WorkingCase }) {
  const range = working.shown?.questions.range;
  const [text, setText] = useState(range ? `${range.from}-${range.to}` : '');
  const commit = () => {
    const match = /^\s*(\d+)\s*[-–]\s*(\d+)\s*$/.exec(text);
    const next = match ? { from: match[1]!, to: match[2]! } : null;
    if (JSON.stringify(next) !== JSON.stringify(range ?? null)) working.setQuestions({ range: next });
  };
  return (
    <label className="flex flex-wrap items-center gap-2">
      <span className="text-ink-2">numbers in the box</span>
      <input
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === 'Enter' && commit()}
        placeholder="any, or 40000-41999"
        autoComplete="off"
        className="input h-7! w-44 font-mono"
      />
    </label>
  );
}
