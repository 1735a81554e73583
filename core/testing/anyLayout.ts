/** Random sound layouts for property tests: every role, split and falling ranges, chained parity. */
import fc from 'fast-check';
import { isLabel, type Layout, rangeOf, type Span } from '../src/format/index.ts';

/** Shuffles with the numbers given, so that fast-check can shrink. */
function shuffled(length: number, keys: number[]): number[] {
  return Array.from({ length }, (_, i) => i + 1).sort(
    (a, b) => keys[a % keys.length]! - keys[b % keys.length]! || a - b,
  );
}

export const anyLayout: fc.Arbitrary<Layout> = fc
  .record({
    bits: fc.oneof(fc.integer({ min: 8, max: 80 }), fc.integer({ min: 8, max: 512 })),
    keys: fc.array(fc.nat(1000), { minLength: 7, maxLength: 40 }),
    scatter: fc.boolean(),
    widths: fc.array(fc.integer({ min: 1, max: 70 }), { minLength: 5, maxLength: 5 }),
    written: fc.constantFrom(undefined, 'bcd' as const, 'bcd-low' as const, 'char5' as const),
    senses: fc.array(fc.constantFrom('even' as const, 'odd' as const), { minLength: 0, maxLength: 4 }),
    check: fc.constantFrom('none', 'xor', 'crc', 'lrc5'),
    arrives: fc.record({ reverseBytes: fc.boolean(), reverseBits: fc.boolean(), invert: fc.boolean() }),
    constant: fc.option(fc.nat(70_000).map(String), { nil: undefined }),
    print: fc.option(fc.record({ joined: fc.boolean(), add: fc.integer({ min: -9999, max: 9999 }).map(String) }), {
      nil: undefined,
    }),
    label: fc.string({ minLength: 1, maxLength: 12, unit: 'grapheme' }).filter(isLabel),
  })
  .map(({ bits, keys, scatter, widths, written, senses, check, arrives, constant, print, label }) => {
    const order = scatter ? shuffled(bits, keys) : Array.from({ length: bits }, (_, i) => i + 1);
    let used = 0;
    const take = (count: number): string | undefined => {
      if (used + count > order.length || count === 0) return undefined;
      used += count;
      return rangeOf(order.slice(used - count, used));
    };
    const spans: Span[] = [];
    const sums = senses.map(() => take(1)).filter((at) => at !== undefined);
    const checkWidth = { none: 0, xor: 4, crc: 8, lrc5: 5 }[check]!;
    const checkAt = take(checkWidth);
    const add = (at: string | undefined, make: (at: string) => Span) => at !== undefined && spans.push(make(at));
    if (constant === undefined) add(take(widths[0]! % 24), (at) => ({ role: 'facility', at }));
    const unit = written === undefined ? 1 : written === 'char5' ? 5 : 4;
    add(take(Math.floor(widths[1]! / unit) * unit), (at) => ({ role: 'number', at, ...(written && { written }) }));
    add(take(widths[2]! % 4), (at) => ({ role: 'issue', at }));
    add(take(widths[3]!), (at) => ({ role: 'value', label, at }));
    const fixed = (widths[4]! % 6) + 1;
    add(take(fixed), (at) => ({ role: 'fixed', at, bits: '101101'.slice(0, fixed) }));
    const data = order.slice(0, used).filter((p) => !sums.includes(String(p)) && p !== undefined);
    const own = new Set(checkAt ? order.slice(sums.length, sums.length + checkWidth) : []);
    const covered = data.filter((p) => !own.has(p));
    const whole = covered.slice(0, covered.length - (covered.length % (checkWidth || 1)));
    if (checkAt && whole.length > 0) {
      const covers = rangeOf(whole);
      const crc = {
        kind: 'crc' as const,
        width: 8,
        poly: '1D',
        init: 'C7',
        reflectIn: false,
        reflectOut: true,
        xorOut: '0',
      };
      const method =
        check === 'lrc5' ? { kind: 'lrc5' as const } : check === 'xor' ? { kind: 'xor' as const, width: 4 } : crc;
      spans.push({ role: 'check', at: checkAt, method, covers });
    }
    sums.forEach((at, i) => {
      const covers = [...covered.filter((_, k) => k % (i + 1) === 0), ...sums.slice(0, i).map(Number)];
      if (covers.length > 0) spans.push({ role: 'parity', at, sense: senses[i]!, covers: rangeOf(covers) });
    });
    const wholeBytes = bits % 8 === 0;
    return {
      bits,
      spans,
      arrives: { ...arrives, reverseBytes: arrives.reverseBytes && wholeBytes },
      ...(constant !== undefined && { facility: constant }),
      // It says something, and of what there is.
      ...(print &&
        (print.joined || print.add !== '0') &&
        spans.some(({ role }) => role === 'number') &&
        (!print.joined || constant !== undefined || spans.some(({ role }) => role === 'facility')) && { print }),
    };
  });
