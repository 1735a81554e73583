/**
 * Modulation of a proximity tag: bits as half-bits, the levels of its coil, and back. Manchester: a bit is a change in its
 * middle. Biphase (differential): a change at every bit's beginning, and one in the middle of a 0. What a reader set up for
 * one makes of the other, or of another rate, is no tag.
 */

export const MODULATIONS = ['manchester', 'biphase'] as const;
export type Modulation = (typeof MODULATIONS)[number];

/** Half-bits as levels, two a bit, and how many periods of the carrier a bit takes. */
export interface HalfBits {
  rate: number;
  halfBits: string;
}

/** What is on the air: half-bits, or the level in each period of the carrier. */
export type Signal = HalfBits | { levels: string };

/** The signal of bits, at so many carrier periods a bit. */
export function modulate(bits: string, modulation: Modulation, rate: number): HalfBits {
  return { rate, halfBits: modulation === 'manchester' ? manchester(bits) : biphase(bits) };
}

// A 1 is a fall and a 0 a rise [mem]; a reader that takes it the other way round finds the tag all the same.
const manchester = (bits: string): string => [...bits].map((bit) => (bit === '1' ? '10' : '01')).join('');

function biphase(bits: string): string {
  let level = 0;
  let out = '';
  for (const bit of bits) {
    level ^= 1;
    out += level;
    if (bit === '0') level ^= 1;
    out += level;
  }
  return out;
}

/**
 * The bits that a reader makes of a signal that it expects at this rate and modulation; undefined where the signal is not
 * that. It samples by its own rate, so that a tag at another rate is heard as other half-bits.
 */
export function demodulate(signal: HalfBits, modulation: Modulation, rate: number): string | undefined {
  const halfBits = sampled(signal, rate);
  for (const offset of [0, 1]) {
    const bits =
      modulation === 'manchester' ? fromManchester(halfBits.slice(offset)) : fromBiphase(halfBits.slice(offset));
    if (bits !== undefined) return bits;
  }
  return undefined;
}

/** A signal as half-bits of another rate: each sample is the level in its middle. */
function sampled({ rate: theirs, halfBits }: HalfBits, rate: number): string {
  if (theirs === rate) return halfBits;
  const periods = halfBits.length * (theirs / 2);
  return Array.from(
    { length: Math.floor(periods / (rate / 2)) },
    (_, i) => halfBits[Math.floor(((i + 0.5) * rate) / theirs)],
  ).join('');
}

function fromManchester(halfBits: string): string | undefined {
  let bits = '';
  for (let at = 0; at + 1 < halfBits.length; at += 2) {
    if (halfBits[at] === halfBits[at + 1]) return undefined;
    bits += halfBits[at];
  }
  return bits;
}

function fromBiphase(halfBits: string): string | undefined {
  let bits = '';
  for (let at = 0; at + 1 < halfBits.length; at += 2) {
    // Between bits there is always a change.
    if (at > 0 && halfBits[at] === halfBits[at - 1]) return undefined;
    bits += halfBits[at] === halfBits[at + 1] ? '1' : '0';
  }
  return bits;
}
