/** What is claimed where it is not sure whether, or which, error is in the case: no more than the explanation that it rests on. */
import type { Analysis } from './analysis.ts';
import { explainedSuspect } from './errorsInWords.ts';
import type { Explanation } from './explain.ts';
import { LIKELY } from './family/index.ts';
import type { PredictionFinding, PredictionStanding } from './finding.ts';

/** So sure of an explanation, what follows from it is proven or settled with it. */
const SURE = 0.95;

/** What follows from a mend is never likelier than this: a format that is not of the family can look like an error. */
const MENDED = 0.98;

export interface Doubt {
  certainty: number;
  /** What else is likeliest. */
  words: string;
}

export function doubtOf(analysis: Analysis, explained: Explanation | undefined): Doubt | undefined {
  if (!explained || (explained.certainty >= SURE && explained.found.length === 0)) return undefined;
  const { against } = explained;
  const certainty = explained.found.length > 0 ? Math.min(explained.certainty, MENDED) : explained.certainty;
  return {
    certainty,
    words: against ? explainedSuspect(analysis, against).words : 'Something may be wrong with a card.',
  };
}

/** A standing with its odds, where what it rests on is only so certain. */
export function standingWith(
  standing: PredictionStanding,
  odds: number | null,
  certainty: number,
): { standing: PredictionStanding; odds: number | null } {
  if (odds === null || (standing !== 'proven' && standing !== 'settled' && standing !== 'likely'))
    return { standing, odds };
  if (certainty >= SURE && standing !== 'likely') return { standing, odds };
  const less = odds * certainty;
  return { standing: less >= LIKELY ? 'likely' : 'open', odds: less };
}

export function lessSure(found: PredictionFinding, doubt: Doubt | undefined): PredictionFinding {
  if (!doubt) return found;
  const told = standingWith(found.standing, found.odds, doubt.certainty);
  if (told.standing === found.standing && told.odds === found.odds) return found;
  if (doubt.certainty >= SURE && told.standing === found.standing) return { ...found, ...told };
  const { withstands: _, ...rest } = found;
  return {
    ...rest,
    ...told,
    bits: told.standing === 'open' ? null : found.bits,
    rival: doubt.words,
    why: `${found.why} But so sure it is not: ${doubt.words}`,
  };
}
