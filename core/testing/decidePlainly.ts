/** The rules of a decision written down plainly, card by card and format by format: what the engine is held against. */
import type { ControllerImage, Credential, Step } from '../src/access/index.ts';
import type { Bits } from '../src/bits/index.ts';
import { fitsOf } from '../src/codec/index.ts';

export interface PlainDecision {
  /** Undefined where it opens. */
  stoppedAt?: Step;
  /** What is cut out of the read; undefined where no format fits it in full. */
  values?: Record<string, string>;
}

const ORDER: readonly Step[] = ['length', 'checks', 'number', 'facility', 'state', 'dates', 'group', 'schedule'];

export function decidePlainly(image: ControllerImage, bits: Bits, atMs: number): PlainDecision {
  const fits = fitsOf(
    bits,
    image.formats.filter((format) => format.bits === bits.length),
    true,
  );
  if (fits.length === 0) return { stoppedAt: 'length' };
  let furthest: PlainDecision = { stoppedAt: 'checks' };
  for (const { fit, values } of fits) {
    if (fit !== 'full') continue;
    const stoppedAt = stepOf(image, values, atMs);
    if (stoppedAt === undefined) return { values };
    if (ORDER.indexOf(stoppedAt) > ORDER.indexOf(furthest.stoppedAt!)) furthest = { stoppedAt, values };
  }
  return furthest;
}

function stepOf(image: ControllerImage, values: Record<string, string>, atMs: number): Step | undefined {
  const sameNumber = image.credentials.filter(({ number }) => number === values.number);
  if (sameNumber.length === 0) return 'number';
  const matching = sameNumber.filter((c) => !image.comparesFacility || c.facility === (values.facility ?? null));
  if (matching.length === 0) return 'facility';
  const steps = matching.map((card) => stepOfCard(card, atMs));
  if (steps.includes(undefined)) return undefined;
  return (steps as Step[]).reduce((a, b) => (ORDER.indexOf(b) > ORDER.indexOf(a) ? b : a));
}

function stepOfCard(card: Credential, atMs: number): Step | undefined {
  if (card.state !== 'active') return 'state';
  const early = card.validFrom !== null && atMs < Date.parse(card.validFrom);
  const late = card.validTo !== null && atMs >= Date.parse(card.validTo);
  return early || late ? 'dates' : undefined;
}
