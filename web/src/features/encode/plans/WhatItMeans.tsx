/** What a changed plan means: for the cards of each version, for keys that are not there, for readers. */
import type { PlanChangeShown } from '@rawbits/api';
import { cardStepWords } from '../words/words.ts';
import { Differences } from './Differences.tsx';

export function WhatItMeans({ change }: { change: PlanChangeShown }) {
  const { cards, differences, missing, readers } = change;
  const about = cards.filter((one) => one.cards > 0);
  return (
    <div className="grid gap-2" data-testid="dry-run">
      {about.length === 0 && <p>No card carries this plan yet: nothing has to be brought along.</p>}
      {about.map(({ version, cards: count, steps, keys, refused }) => (
        <div key={version} className={`border-l-4 pl-2 ${refused ? 'border-signal' : 'border-primary'}`}>
          <p>
            <strong>
              {count} {count === 1 ? 'card' : 'cards'} of version {version}:
            </strong>{' '}
            {refused
              ? `cannot be brought along. ${refused}`
              : steps.length === 0
                ? 'stay as they are.'
                : `brought along in ${steps.length} ${steps.length === 1 ? 'step' : 'steps'} each, when next on a pad, with ${keys.join(', ')}.`}
          </p>
          {steps.length > 0 && (
            <ol className="list-decimal pl-6 text-[0.9rem]">
              {steps.map((step, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the steps stand in their order.
                <li key={i} className={step.loses ? 'font-bold text-signal' : ''}>
                  {cardStepWords(step)}
                  {step.loses && `: ${step.loses} is lost`}
                </li>
              ))}
            </ol>
          )}
        </div>
      ))}
      {missing.length > 0 && (
        <p className="text-signal">
          Not in the key store yet: {missing.join(', ')}. No card can be encoded until they are.
        </p>
      )}
      {readers.map(({ id, name, refuses }) => (
        <p key={id} className={refuses ? 'text-signal' : ''}>
          <strong>{name}</strong> {refuses ? `would refuse: ${refuses}` : 'reads cards of both versions.'}
        </p>
      ))}
      <details>
        <summary className="cursor-pointer">
          {differences.length} {differences.length === 1 ? 'place differs' : 'places differ'}
        </summary>
        <Differences differences={differences} />
      </details>
    </div>
  );
}
