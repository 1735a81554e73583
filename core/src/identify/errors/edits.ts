/** How a print is mistyped: how unusual it is that one was meant and the other typed, in bits. */

const DIGIT = Math.log2(10);

/**
 * One digit wrong, two neighbours exchanged, one left out or one too many; anything else costs as much as typing another number.
 * Common practice, no source: most slips of the finger are one of these.
 */
export function slipBits(meant: string, typed: string): number {
  const places = Math.log2(Math.max(2, typed.length));
  const other = 6 + DIGIT * typed.length;
  if (meant.length === typed.length) {
    const wrong = [...meant].flatMap((digit, i) => (digit === typed[i] ? [] : [i]));
    const [a, b] = wrong;
    if (wrong.length === 1) return 1 + places + DIGIT;
    if (wrong.length === 2 && b === a! + 1 && meant[a!] === typed[b!] && meant[b!] === typed[a!]) return 2 + places;
    return wrong.length === 2 ? Math.min(other, 8 + 2 * (places + DIGIT)) : other;
  }
  const [longer, shorter] = meant.length > typed.length ? [meant, typed] : [typed, meant];
  const isOneMore =
    longer.length === shorter.length + 1 &&
    [...longer].some((_, i) => longer.slice(0, i) + longer.slice(i + 1) === shorter);
  return isOneMore ? 4 + places + DIGIT : other;
}
