/** Two devices disagree about the same cards: what leads from one to the other, and keeping it under a name. */

import type { Explanation, Pair } from '@rawbits/core/translate';
import { type ClipboardEvent, useDeferredValue, useMemo, useState } from 'react';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useKeepTranslationMutation } from '../../platform/endpoints/translations.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { Kept } from './Kept.tsx';
import { EMPTY_PAIR, filled, pairsFrom } from './pairs.ts';
import { useExplained } from './useExplained.ts';

const NO_PAIRS = [EMPTY_PAIR];

export function TwoNumbers() {
  const { id: site } = useSite();
  const [pairs = NO_PAIRS, setPairs] = useDraft<Pair[]>('pairs of numbers', site);
  const later = useDeferredValue(pairs);
  const entered = useMemo(() => filled(later), [later]);
  const { result, failure } = useExplained(entered);
  const [chosen, setChosen] = useState(0);
  const explanation = result?.explanations[chosen] ?? result?.explanations[0];
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,2fr)_minmax(0,3fr)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
      <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-4" aria-label="Pairs of outputs">
        <h2>The same cards at two devices</h2>
        <p className="text-ink-2">
          One card a row, as each device shows it: hex, decimal, bits, fff,nnnnn. Two or three cards are usually enough.
        </p>
        <PairTable
          pairs={pairs}
          onPairs={(next) => setPairs(next.some(({ a, b }) => a || b) ? next : undefined)}
          unexplained={explanation?.unexplained ?? []}
        />
        <FailureNote
          failure={
            failure && {
              message: `${failure.where?.row ? `Row ${failure.where.row}: ` : ''}${failure.message}`,
              hint: failure.hint,
            }
          }
        />
      </section>
      <section
        className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4"
        aria-label="What leads from one to the other"
      >
        <h2>What leads from one to the other</h2>
        {!result && <p className="text-ink-2">Enter what both devices show for one card to begin.</p>}
        {result && result.explanations.length === 0 && (
          <p>
            Nothing tried leads from one to the other for all but a few pairs. Check the digits; perhaps one of the
            numbers is a serial number that is not on the card.
          </p>
        )}
        {result && result.explanations.length > 0 && (
          <>
            <p>
              {result.explanations.length === 1
                ? result.cards === 1
                  ? 'One explanation was found for this one card.'
                  : 'One explanation is left.'
                : `${result.explanations.length + result.more} explanations are left, the simplest first.`}
            </p>
            {result.cards === 1 && (
              <p className="text-signal">
                One card settles nothing: by chance several ways lead from one number to the other. Enter a second card,
                its number far from this one.
              </p>
            )}
            <ol className="flex flex-col gap-1" data-testid="explanations">
              {result.explanations.map((e, i) => (
                <li key={JSON.stringify(e.translation)}>
                  <Choice
                    explanation={e}
                    of={entered.length}
                    chosen={e === explanation}
                    onChoose={() => setChosen(i)}
                  />
                </li>
              ))}
            </ol>
            {result.settle && (
              <p>
                <strong>A card that would settle it:</strong> one for which the{' '}
                {result.settle.of === 'a' ? 'first' : 'second'} device shows something like{' '}
                <span className="font-mono">{result.settle.output}</span>. The other would show{' '}
                <span className="font-mono">{result.settle.gives.map((g) => g ?? 'nothing').join(' or ')}</span>.
              </p>
            )}
            {explanation && <Keep explanation={explanation} />}
          </>
        )}
        <Kept />
      </section>
    </div>
  );
}

function PairTable({
  pairs,
  onPairs,
  unexplained,
}: {
  pairs: Pair[];
  onPairs: (pairs: Pair[]) => void;
  unexplained: number[];
}) {
  const set = (index: number, part: Partial<Pair>) => {
    const next = pairs.map((pair, i) => (i === index ? { ...pair, ...part } : pair));
    onPairs(next.at(-1)!.a || next.at(-1)!.b ? [...next, EMPTY_PAIR] : next);
  };
  const onPaste = (event: ClipboardEvent) => {
    const pasted = pairsFrom(event.clipboardData.getData('text'));
    if (pasted.length < 2 && !pasted[0]?.b) return;
    event.preventDefault();
    onPairs([...filled(pairs), ...pasted, EMPTY_PAIR]);
  };
  return (
    <table className="grid-table" onPaste={onPaste}>
      <thead>
        <tr>
          <th aria-label="row" />
          <th>first device</th>
          <th>second device</th>
          <th aria-label="explained" />
        </tr>
      </thead>
      <tbody>
        {pairs.map((pair, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no other identity while they are typed
          <tr key={i}>
            <td className="text-ink-2">{i + 1}</td>
            {(['a', 'b'] as const).map((side) => (
              <td key={side}>
                <input
                  value={pair[side]}
                  onChange={(event) => set(i, { [side]: event.target.value })}
                  aria-label={`Row ${i + 1}, ${side === 'a' ? 'first' : 'second'} device`}
                  spellCheck={false}
                  autoComplete="off"
                  className="input w-full font-mono"
                />
              </td>
            ))}
            <td className="text-signal">{unexplained.includes(i + 1) && 'not explained'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Choice({
  explanation,
  of,
  chosen,
  onChoose,
}: {
  explanation: Explanation;
  of: number;
  chosen: boolean;
  onChoose: () => void;
}) {
  return (
    <label className={`flex cursor-pointer items-baseline gap-2 p-1 ${chosen ? 'bg-chosen' : ''}`}>
      <input type="radio" name="explanation" className="radio radio-xs" checked={chosen} onChange={onChoose} />
      <span>
        {explanation.direction === 'b to a' && 'From the second device to the first: '}
        {explanation.words}
        <span className="text-ink-2">
          {' '}
          · explains {explanation.explains} of {of}
          {explanation.unexplained.length > 0 && `, not row ${explanation.unexplained.join(', ')}`}
        </span>
      </span>
    </label>
  );
}

function Keep({ explanation }: { explanation: Explanation }) {
  const { id: site, may } = useSite();
  const [name = '', setName] = useDraft<string>('translations', `${site} new`);
  const [keep, { error, isLoading }] = useKeepTranslationMutation();
  const dispatch = useAppDispatch();
  if (!may('use formats')) return null;
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void keep({ site, name, notes: '', translation: explanation.translation }).then(({ data }) => {
          if (!data) return;
          setName('');
          dispatch(said(`${data.name} is kept: the paste field and Stock can apply it`));
        });
      }}
    >
      <Field label="Keep it as" className="w-72">
        {(props) => (
          <input
            {...props}
            value={name}
            onChange={(event) => setName(event.target.value)}
            placeholder="desk reader to wall reader"
            maxLength={120}
            required
            className="input w-full"
          />
        )}
      </Field>
      <button type="submit" className="btn btn-primary" disabled={isLoading}>
        Keep the translation
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
