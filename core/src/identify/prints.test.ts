/** Prints that are not the number as it stands: a constant with another order of the read, and parts of a UID. Formats invented. */
import { describe, expect, it } from 'vitest';
import { CATALOGUE } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { parseLayoutLine } from '../format/index.ts';
import { identify } from './index.ts';

it('a constant is added, and the bytes come reversed: the whole box is settled, and right', () => {
  const layout = parseLayoutLine('40r | 1-8 fixed 10100110 | 9-32 number | 33-40 fixed 01100011');
  const read = (print: bigint | number) => encode(layout, { number: String(Number(print) + 50_000) }).toBinary();
  const numbers = [118_400, 118_413, 118_444, 118_471, 118_506, 118_555, 118_580, 118_411, 118_597];
  const cards = numbers.map((number) => ({ bits: read(number), printed: String(number) }));
  const finding = identify(cards, { library: CATALOGUE, range: { from: 118_400n, to: 118_599n } });
  expect(finding.range).toMatchObject({ settled: 200, open: 0 });
  for (const { number, bits } of finding.range!.cards) expect(bits).toBe(read(BigInt(number)));
});

describe('a part of the UID, in parity', () => {
  const NEXT = '04A83B1C5D2E80';
  const uids = ['04A13B1C5D2E80', '04A23B1F5D2E80', '04B43B225D2E81', '04C63BA15D2E80', '04A93B7C5D2E80'];
  const read = (digits: string) =>
    encode(
      parseLayoutLine(
        `${digits.length * 4 + 2} | 1 even 2-${digits.length * 2 + 1} | 2-${digits.length * 4 + 1} number | ${digits.length * 4 + 2} odd ${digits.length * 2 + 2}-${digits.length * 4 + 1}`,
      ),
      {
        number: BigInt(`0x${digits}`).toString(),
      },
    ).toBinary();
  const reversed = (digits: string) => digits.match(/../g)!.reverse().join('');
  // The last three bytes of the next card are those of a card read; of the first three five cards may leave something open.
  it.each([
    ['the first 4 bytes', (uid: string) => uid.slice(0, 8), 'right'],
    ['the last 4 bytes', (uid: string) => uid.slice(6), 'right'],
    ['the first 3 bytes', (uid: string) => uid.slice(0, 6), 'not wrong'],
    ['the first 3 bytes', (uid: string) => reversed(uid.slice(0, 6)), 'not wrong'],
    ['the last 3 bytes', (uid: string) => reversed(uid.slice(8)), 'right'],
  ] as const)('%s, as sent or reversed', (words, part, said) => {
    const cards = uids.map((uid) => ({ bits: read(part(uid)), printed: uid }));
    const finding = identify(cards, { library: CATALOGUE, predict: [NEXT] });
    expect([finding.reading, ...finding.rivals].some((reading) => reading!.includes(words))).toBe(true);
    const [prediction] = finding.predictions;
    // The likeliest bits may be told with what is open; then they are not said to be so.
    const bits = said === 'not wrong' && prediction!.standing === 'open' ? null : read(part(NEXT));
    expect(prediction!.bits).toBe(bits);
  });
});
