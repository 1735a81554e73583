/** Identification in a worker of its own, so that typing is never held up. */
import type { CaseSpecimen, Questions } from '@rawbits/api';
import { type Failure, failureOf } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { type Finding, identify } from '@rawbits/core/identify';
import { expose } from 'comlink';
import { shownAs } from './columns.ts';

export interface Request {
  specimens: CaseSpecimen[];
  questions: Questions;
  library: Format[];
  /** The facility codes that are named at the site. */
  codes: string[];
}
export type Answer = { finding: Finding } | { failure: Failure };

/** How many claims about bits are open, presumed and proven once the first specimens are in. */
export interface Step {
  cards: number;
  proven: number;
  presumed: number;
  open: number;
}

const MOST_STEPS = 24;

function find(
  { specimens, questions, library, codes }: Request,
  more: { family?: boolean; until?: boolean } = {},
): Finding {
  const setAside = specimens.flatMap((s, i) => (s.setAside ? [i + 1] : []));
  const range = questions.range && { from: BigInt(questions.range.from), to: BigInt(questions.range.to) };
  const plain = specimens.map(({ setAside: _aside, source: _source, at: _at, asRead: _read, ...known }) => known);
  return identify(plain, { library, codes, predict: questions.predict, setAside, ...more, ...(range && { range }) });
}

/** Undefined where nothing can be found. */
function foundOf(work: () => Finding): Finding | undefined {
  try {
    return work();
  } catch {
    return undefined;
  }
}

const worker = {
  answer(request: Request): Answer {
    try {
      return { finding: find(request) };
    } catch (error) {
      return { failure: failureOf(error) };
    }
  },

  /** The same with how many more cards the box most likely takes, which takes longer. */
  withUntil(request: Request): Answer {
    const finding = foundOf(() => find(request, { until: true }));
    return finding ? { finding } : worker.answer(request);
  },

  /** The claims after each of the cards, or after as many evenly chosen ones as are worth drawing. */
  steps(request: Request): Step[] {
    const kept = request.specimens.filter((s) => !s.setAside);
    const every = Math.max(1, Math.ceil(kept.length / MOST_STEPS));
    const steps: Step[] = [];
    for (
      let cards = 1;
      cards <= kept.length;
      cards += cards + every > kept.length && cards < kept.length ? kept.length - cards : every
    ) {
      const first = { ...request, specimens: kept.slice(0, cards), questions: { predict: [], range: null } };
      const finding = foundOf(() => find(first, { family: false }));
      if (!finding) continue;
      const count = (standing: string) => finding.bits.filter((b) => shownAs(b) === standing).length;
      steps.push({ cards, proven: count('proven'), presumed: count('presumed'), open: count('open') });
    }
    return steps;
  },
};
export type IdentifyWorker = typeof worker;

expose(worker);
