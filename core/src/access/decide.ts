/** Decide: what a controller does with a read, and at which step it stops. */
import type { Bits } from '../bits/index.ts';
import { type FitOf, fitsOf } from '../codec/index.ts';
import { type Format, isSound } from '../format/index.ts';
import type { ControllerImage, Credential } from './image.ts';

/** The steps of a decision in their order; a refusal names the one at which it stopped. */
export const STEPS = ['length', 'checks', 'number', 'facility', 'state', 'dates'] as const;
export type Step = (typeof STEPS)[number];

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

/** What a controller with this image does with a read at an instant (milliseconds since 1970). */
export function decide(image: ControllerImage, bits: Bits, atMs: number): Decision {
  const ofLength = image.formats.filter((format) => format.bits === bits.length && isSound(format));
  if (ofLength.length === 0) {
    const lengths = [...new Set(image.formats.map((format) => format.bits))].sort((a, b) => a - b);
    const has = lengths.length === 0 ? 'none is loaded at all' : `it accepts ${lengths.join(', ')} bits`;
    return refuse('length', `No format in this controller has ${bits.length} bits; ${has}.`);
  }
  const fits = fitsOf(bits, ofLength, true);
  const full = fits.filter((fit) => fit.fit === 'full');
  if (full.length === 0) return refuse('checks', fits[0]!.reason, fits[0]);
  let closest: Decision | undefined;
  for (const fit of full) {
    const decision = decideUnder(image, fit, atMs);
    if (decision.outcome === 'opened') return decision;
    if (!closest || STEPS.indexOf(decision.stoppedAt!) > STEPS.indexOf(closest.stoppedAt!)) closest = decision;
  }
  return closest!;
}

function refuse(stoppedAt: Step, reason: string, fit?: FitOf<Format>, credential?: Credential): Decision {
  return {
    outcome: 'refused',
    stoppedAt,
    reason,
    ...(fit && { formatId: fit.format.id, values: fit.values }),
    ...(credential && { credential: { id: credential.id, holder: credential.holder } }),
  };
}

function decideUnder(image: ControllerImage, fit: FitOf<Format>, atMs: number): Decision {
  const { number, facility } = fit.values;
  if (number === undefined) return refuse('number', `${fit.format.name} carries no number that could be on file.`, fit);
  const sameNumber = image.credentials.filter((c) => c.number === number);
  if (sameNumber.length === 0) return refuse('number', `Number ${number} is not on file in this controller.`, fit);
  const matching = sameNumber.filter((c) => !image.comparesFacility || (c.facility ?? undefined) === facility);
  if (matching.length === 0) {
    const theirs = sameNumber.map((c) => c.facility ?? 'none').join(', ');
    return refuse(
      'facility',
      `Number ${number} is on file with facility code ${theirs}, but the card says ${facility ?? 'none'}.`,
      fit,
      sameNumber[0],
    );
  }
  const credential = matching.find((c) => c.state === 'active') ?? matching[0]!;
  if (credential.state !== 'active')
    return refuse('state', `The card is ${credential.state}, not active.`, fit, credential);
  if (credential.validFrom && atMs < Date.parse(credential.validFrom))
    return refuse('dates', `The card is valid only from ${credential.validFrom}.`, fit, credential);
  if (credential.validTo && atMs >= Date.parse(credential.validTo))
    return refuse('dates', `The card was valid until ${credential.validTo}.`, fit, credential);
  return {
    outcome: 'opened',
    reason: `Number ${number}${facility === undefined ? '' : `, facility code ${facility},`} is on file and active.`,
    formatId: fit.format.id,
    values: fit.values,
    credential: { id: credential.id, holder: credential.holder },
  };
}
