/** What leads from the print on a card to the number that a layout cuts out, where the two are not the same. */
import type { CaseSpecimen } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode } from '@rawbits/core/codec';
import { parseLayoutLine } from '@rawbits/core/format';
import { explain, type Translation } from '@rawbits/core/translate';

const MOST_CARDS = 40;

/** Undefined where every print is the number itself, or where nothing simple leads from one to the other. */
export function translationOf(layout: string, specimens: readonly CaseSpecimen[]): Translation | undefined {
  const parsed = parseLayoutLine(layout);
  const pairs = specimens
    .filter((s) => s.printed && !s.setAside && s.bits.length === parsed.bits)
    .slice(0, MOST_CARDS)
    .flatMap((s) => {
      const { fit, values } = decode(Bits.fromBinary(s.bits), parsed);
      return fit === 'full' && values.number !== undefined ? [{ a: s.printed!, b: values.number }] : [];
    });
  if (pairs.length < 2 || pairs.every(({ a, b }) => a.replace(/^0+(?=.)/, '') === b)) return undefined;
  try {
    const best = explain(pairs).explanations.find((e) => e.direction === 'a to b' && e.unexplained.length === 0);
    return best?.translation;
  } catch {
    return undefined;
  }
}
