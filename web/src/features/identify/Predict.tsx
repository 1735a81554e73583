/** The bits of a card not read yet: typed numbers, or a range of the box. */
import { rangeOf } from '@rawbits/core/format';
import { type GroupFinding, type PredictionFinding, percentOf } from '@rawbits/core/identify';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useSite } from '../../platform/site/useSite.ts';
import type { WorkingCase } from './useCase.ts';

const MOST_OF_RANGE = 100;
const TAG = {
  proven: 'text-primary',
  settled: 'text-primary',
  likely: 'text-ink-2',
  presumed: 'text-ink-2',
  open: 'text-signal',
} as const;

/** Numbers as typed: one, several, or a range such as 118400-118420. */
function numbersFrom(text: string): string[] {
  return text
    .split(/[;\n]|,\s+/)
    .map((part) => part.trim())
    .filter(Boolean)
    .flatMap((part) => {
      const range = /^(\d{1,15})\s*[-–]\s*(\d{1,15})$/.exec(part);
      if (!range) return [part];
      const [from, to] = [Number(range[1]), Number(range[2])];
      if (to < from) return [part];
      return Array.from({ length: Math.min(to - from + 1, MOST_OF_RANGE) }, (_, i) => String(from + i));
    });
}

export function Predict({ finding, working }: { finding: GroupFinding; working: WorkingCase }) {
  const asked = working.shown?.questions.predict ?? [];
  const { id: site } = useSite();
  const [text = '', setText] = useDraft<string>('numbers to predict', `${site} ${working.shown?.id ?? ''}`);
  const ask = () => {
    const fresh = numbersFrom(text).filter((n) => !asked.includes(n));
    if (fresh.length > 0) working.setQuestions({ predict: [...fresh, ...asked].slice(0, 200) });
    setText('');
  };
  return (
    <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="Bits of a card not read yet">
      <h2>Bits of a card not read yet</h2>
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          ask();
        }}
      >
        <input
          value={text}
          onChange={(event) => setText(event.target.value)}
          placeholder="a number, or a range"
          aria-label="Numbers to predict"
          autoComplete="off"
          className="input w-full font-mono"
        />
        <button type="submit" className="btn btn-line" disabled={text.trim() === ''}>
          Predict
        </button>
      </form>
      {asked.length === 0 && (
        <p className="text-ink-2">
          Type a number from the box: its exact bits, or an honest “not determined by these cards”.
        </p>
      )}
      <ul data-testid="predictions" className="flex flex-col">
        {finding.predictions.map((prediction) => (
          <Prediction key={prediction.printed} prediction={prediction} />
        ))}
      </ul>
      {asked.length > 0 && (
        <button type="button" className="switch-link self-start" onClick={() => working.setQuestions({ predict: [] })}>
          clear these
        </button>
      )}
    </section>
  );
}

function Prediction({ prediction }: { prediction: PredictionFinding }) {
  const { printed, bits, standing, odds, unsettled = [], withstands, why } = prediction;
  return (
    <li className="border-t border-faint py-1" data-prediction={printed}>
      <p className="flex items-center gap-2">
        <strong className="font-mono">{printed}</strong>
        <span className={`tag ${TAG[standing]}`}>{standing}</span>
        {standing === 'likely' && odds !== null && <span className="text-ink-2">{percentOf(odds)} %</span>}
        {bits && <CopyButton text={bits} what={`the bits of ${printed}`} />}
      </p>
      {bits && <Settled bits={bits} unsettled={unsettled} />}
      {withstands && (
        <p className={`text-[0.9rem] ${withstands.length === 0 ? 'text-signal' : ''}`}>
          Withstands {withstands.length === 0 ? 'no error' : `one ${withstands.join(', ')}`}.
        </p>
      )}
      <p className="text-[0.9rem] text-ink-2">{why}</p>
    </li>
  );
}

/** The bits, those that are not settled underlined with dots and in the signal colour. */
function Settled({ bits, unsettled }: { bits: string; unsettled: readonly number[] }) {
  const open = new Set(unsettled);
  if (open.size === 0) return <code className="block font-mono text-[0.9rem] break-all">{bits}</code>;
  return (
    <>
      <code className="block font-mono text-[0.9rem] break-all">
        {runsOf(bits, open).map(({ from, text, isOpen }) => (
          <span key={from} className={isOpen ? 'text-signal underline decoration-dotted underline-offset-4' : ''}>
            {text}
          </span>
        ))}
      </code>
      <p className="text-[0.9rem]">
        {open.size === bits.length
          ? 'None of its bits is settled.'
          : `${open.size === 1 ? 'Bit' : 'Bits'} ${rangeOf([...open])} ${open.size === 1 ? 'is' : 'are'} not settled, the rest is.`}
      </p>
    </>
  );
}

/** Bits that stand side by side and are alike settled or not. */
export function runsOf(bits: string, open: ReadonlySet<number>): { from: number; text: string; isOpen: boolean }[] {
  const runs: { from: number; text: string; isOpen: boolean }[] = [];
  [...bits].forEach((bit, i) => {
    const isOpen = open.has(i + 1);
    const last = runs.at(-1);
    if (last && last.isOpen === isOpen) last.text += bit;
    else runs.push({ from: i + 1, text: bit, isOpen });
  });
  return runs;
}
