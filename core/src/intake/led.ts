/** Which of several readings leads: one of a length in use whose format it fits with everything that can be tested; else as they come. */
import { decode } from '../codec/index.ts';
import type { Format } from '../format/index.ts';
import type { IntakeOptions, Reading } from './reading.ts';

/** Notations that nothing else looks like. */
const SURE: ReadonlySet<Reading['notation']> = new Set([
  'ber-bit-string',
  'osdp-raw',
  'clock-and-data',
  'facility-number',
]);

export function led(readings: readonly Reading[], { lengths = [], formats = [] }: IntakeOptions): Reading[] {
  const inUse = formats.filter(({ bits }) => lengths.includes(bits));
  const rank = ({ notation, bits }: Reading) => {
    if (SURE.has(notation)) return 0;
    return inUse.some((format) => format.bits === bits.length && fitsTested(bits, format)) ? 0 : 1;
  };
  return readings
    .map((reading) => ({ reading, rank: rank(reading) }))
    .sort((a, b) => a.rank - b.rank)
    .map(({ reading }) => reading);
}

/** Whether all holds that a format has to be tested by, and there is something: at least two parity bits or a check. */
export function fitsTested(bits: Reading['bits'], format: Format): boolean {
  const tested = format.spans.filter(({ role }) => role === 'parity' || role === 'check' || role === 'fixed');
  return tested.length >= 2 && format.bits === bits.length && decode(bits, format).fit === 'full';
}
