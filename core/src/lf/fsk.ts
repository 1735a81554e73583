/**
 * Frequency-shift keying of a proximity tag (ATA5577C data sheet, "Modulation"): a 1 and a 0 are square waves of different
 * periods, counted in periods of the carrier. Its phase goes on from bit to bit.
 */

/** Periods of a 1 and of a 0, in periods of the carrier. */
export const FSK = { fsk1: [8, 5], fsk2: [8, 10], fsk1a: [5, 8], fsk2a: [10, 8] } as const;
export type Fsk = keyof typeof FSK;

export const isFsk = (modulation: string): modulation is Fsk => modulation in FSK;

/** The level of the coil in each period of the carrier, as binary digits; `rate` periods a bit. */
export function shifted(bits: string, kind: Fsk, rate: number): string {
  const [one, zero] = FSK[kind];
  let phase = 0;
  let levels = '';
  for (const bit of bits)
    for (let i = 0; i < rate; i++) {
      levels += phase < 0.5 ? '1' : '0';
      phase = (phase + 1 / (bit === '1' ? one : zero)) % 1;
    }
  return levels;
}

/**
 * The bits in such levels, counted by their rises within each bit's time; undefined where a count is neither that of a 1
 * nor that of a 0. A reader of another rate cuts the bits elsewhere and finds nothing that means anything.
 */
export function unshifted(levels: string, kind: Fsk, rate: number): string | undefined {
  const [one, zero] = FSK[kind].map((period) => rate / period) as [number, number];
  let bits = '';
  for (let at = 0; at + rate <= levels.length; at += rate) {
    let rises = 0;
    for (let i = at; i < at + rate; i++) if (levels[i] === '1' && (i === 0 || levels[i - 1] === '0')) rises++;
    const [fromOne, fromZero] = [Math.abs(rises - one), Math.abs(rises - zero)];
    if (Math.min(fromOne, fromZero) > 1) return undefined;
    bits += fromOne < fromZero ? '1' : '0';
  }
  return bits;
}
