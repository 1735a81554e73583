/** Decide: what a controller does with a read, at which step it stops, and why, in words. */
import type { Bits } from '../bits/index.ts';
import { type FitOf, fitsOf } from '../codec/index.ts';
import type { Format } from '../format/index.ts';
import type { Credential } from './credential.ts';
import { Engine, OPENED, STEPS, type Step } from './engine.ts';
import { type Lookup, lookupIn, type OnFile } from './onFile.ts';
import type { Passing } from './rights/index.ts';

export interface Decision {
  outcome: 'opened' | 'refused';
  /** The step at which a refusal stopped. */
  stoppedAt?: Step;
  /** Why, in words. */
  reason: string;
  formatId?: string;
  values?: Record<string, string>;
  credential?: { id: string; holder: string | null };
}

/** Everything that a controller is loaded with, as one value: for what fits into one. */
export interface ControllerImage {
  formats: Format[];
  credentials: Credential[];
  /** Whether the facility code has to agree as well as the number. */
  comparesFacility: boolean;
}

export const EMPTY_IMAGE: ControllerImage = { formats: [], credentials: [], comparesFacility: true };

/** What a controller with this image does with a read at an instant (milliseconds since 1970). Costs all its cards. */
export const decide = (image: ControllerImage, bits: Bits, atMs: number): Decision =>
  decideBy(new Engine(image.formats, image.comparesFacility), bits, atMs, lookupIn(image.credentials));

/**
 * What the engine makes of a read at an instant, in words; `passing` is what holds at the reader that it comes from, where
 * anything does. Costs the formats of its length and the cards of its number.
 */
export function decideBy(engine: Engine, bits: Bits, atMs: number, onFile: Lookup, passing?: Passing): Decision {
  engine.decide(bits.words, bits.length, atMs, onFile, passing?.standing);
  const { step, entry, card } = engine;
  if (!entry) return noFit(engine, bits);
  const fit = fitsOf(bits, [entry.format], true)[0]!;
  const credential = card?.credential;
  return {
    outcome: step === OPENED ? 'opened' : 'refused',
    ...(step !== OPENED && { stoppedAt: STEPS[step] }),
    reason: `${reasonAt(step, fit, card, card ? onFile(engine.number!)! : [], atMs, passing)}${alsoFits(engine, bits, onFile)}`,
    formatId: fit.format.id,
    values: fit.values,
    ...(credential && { credential: { id: credential.id, holder: credential.holder } }),
  };
}

/** What the read says under other formats that it fits in full as well: it may be another card than the one decided on. */
function alsoFits(engine: Engine, bits: Bits, onFile: Lookup): string {
  return engine
    .meanings(bits.words, bits.length)
    .filter(({ number, facility }) => number !== engine.number || facility !== engine.facility)
    .map((meaning) => {
      const { format, number, facility } = meaning;
      const name = engine.formats.find(({ id }) => id === format)!.name;
      const says = facility === undefined ? `number ${number}` : `number ${number}, facility code ${facility}`;
      const [card] = engine.cardsOf(meaning, onFile);
      const whose = card
        ? `, on file${card.credential.holder ? ` for ${card.credential.holder}` : ''}`
        : ', not on file';
      return ` It also fits ${name}: ${says}${whose}.`;
    })
    .join('');
}

/** No format fits in full: none is of this length, or a check fails in each. */
function noFit(engine: Engine, bits: Bits): Decision {
  const ofLength = engine.ofLength(bits.length);
  if (ofLength.length > 0) {
    const [nearest] = fitsOf(bits, ofLength, true);
    const { format, values, reason } = nearest!;
    return { outcome: 'refused', stoppedAt: 'checks', reason, formatId: format.id, values };
  }
  const lengths = [...new Set(engine.formats.map((format) => format.bits))].sort((a, b) => a - b);
  const has = lengths.length === 0 ? 'none is loaded at all' : `it accepts ${lengths.join(', ')} bits`;
  return {
    outcome: 'refused',
    stoppedAt: 'length',
    reason: `No format in this controller has ${bits.length} bits; ${has}.`,
  };
}

function reasonAt(
  step: number,
  { format, values: { number, facility } }: FitOf<Format>,
  card: OnFile | undefined,
  sameNumber: readonly OnFile[],
  atMs: number,
  passing: Passing | undefined,
): string {
  switch (STEPS[step]) {
    case 'number':
      return number === undefined
        ? `${format.name} carries no number that could be on file.`
        : `Number ${number} is not on file in this controller.`;
    case 'facility': {
      const theirs = sameNumber.map(({ credential }) => credential.facility ?? 'none').join(', ');
      return `Number ${number} is on file with facility code ${theirs}, but the card says ${facility ?? 'none'}.`;
    }
    case 'state':
      return `The card is ${card!.credential.state}, not active.`;
    case 'dates':
      return atMs < card!.fromMs
        ? `The card is valid only from ${card!.credential.validFrom}.`
        : `The card was valid until ${card!.credential.validTo}.`;
    case 'group':
    case 'schedule':
      return passing!.inWords(card!.credential);
    default: {
      const through = passing?.inWords(card!.credential);
      const known = `Number ${number}${facility === undefined ? '' : `, facility code ${facility},`} is on file and active.`;
      return through ? `${known} ${through}` : known;
    }
  }
}
