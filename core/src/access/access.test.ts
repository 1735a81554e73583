import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decidePlainly } from '../../testing/decidePlainly.ts';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import {
  type ControllerImage,
  type Credential,
  canonicalJson,
  cardKey,
  checkItem,
  decide,
  EMPTY_DIGEST,
  EMPTY_IMAGE,
  FACILITY_COMPARED,
  formatKey,
  Holdings,
  type ItemChange,
  PLACE_DIGITS,
} from './index.ts';

const open26 = catalogued('26-8-16')!;
const card: Credential = {
  id: 'c1',
  format: '26-8-16',
  facility: '71',
  number: '9034',
  holder: 'A. Holder',
  state: 'active',
  validFrom: null,
  validTo: null,
};
const image = (changes: Partial<Credential> = {}, rest: Partial<ControllerImage> = {}): ControllerImage => ({
  formats: [open26],
  credentials: [{ ...card, ...changes }],
  comparesFacility: true,
  ...rest,
});
const read = encode(open26, { facility: '71', number: '9034' });
const noon = Date.parse('2026-06-01T12:00:00Z');

describe('a read that fits two formats', () => {
  const whole26 = catalogued('26-0-24')!;
  const other: Credential = {
    ...card,
    id: 'c2',
    format: '26-0-24',
    facility: null,
    number: String(71 * 65536 + 9034),
    holder: 'B. Other',
  };
  it('is decided under one, and the reason says what it means under the other, and whose that is', () => {
    const both = (credentials: Credential[]) =>
      decide({ formats: [open26, whole26], credentials, comparesFacility: true }, read, noon);
    expect(both([card]).reason).toBe(
      'Number 9034, facility code 71, is on file and active. It also fits 26 bits, number only: number 4662090, not on file.',
    );
    expect(both([{ ...card, state: 'lost' }, other])).toMatchObject({
      outcome: 'opened',
      credential: { id: 'c2' },
      reason: `Number 4662090 is on file and active. It also fits ${open26.name}: number 9034, facility code 71, on file for A. Holder.`,
    });
    // Formats that say the same are one.
    const same = { ...open26, id: 'same', name: 'Same' };
    expect(decide({ formats: [open26, same], credentials: [card], comparesFacility: true }, read, noon).reason).toBe(
      'Number 9034, facility code 71, is on file and active.',
    );
  });
});

describe('a controller decides, and says at which step it stopped', () => {
  it.each([
    ['opens for an active card on file', image(), read, 'opened', undefined],
    ['no format of the length', EMPTY_IMAGE, read, 'refused', 'length'],
    ['a parity bit wrong', image(), Bits.build(26, (p) => read.at(p) !== (p === 26 ? 1 : 0)), 'refused', 'checks'],
    ['a number not on file', image({ number: '9035' }), read, 'refused', 'number'],
    ['another facility code', image({ facility: '72' }), read, 'refused', 'facility'],
    ['suspended', image({ state: 'suspended' }), read, 'refused', 'state'],
    ['not yet valid', image({ validFrom: '2026-06-02T00:00:00Z' }), read, 'refused', 'dates'],
    ['no longer valid', image({ validTo: '2026-06-01T00:00:00Z' }), read, 'refused', 'dates'],
    [
      'within its dates',
      image({ validFrom: '2026-06-01T00:00:00Z', validTo: '2026-06-02T00:00:00Z' }),
      read,
      'opened',
      undefined,
    ],
    // DOMAIN §2, common practice: a controller that compares the number alone opens for another facility code too.
    ['facility code not compared', image({ facility: '72' }, { comparesFacility: false }), read, 'opened', undefined],
  ] as const)('%s', (_, img, bits, outcome, step) => {
    const decision = decide(img, bits, noon);
    expect([decision.outcome, decision.stoppedAt]).toEqual([outcome, step]);
    expect(decision.reason.length).toBeGreaterThan(10);
  });

  it('of two fitting formats, the one that opens decides', () => {
    const split = catalogued('37-16-19')!;
    const bits = encode(split, { facility: '41', number: '30731' });
    const both = image(
      { format: '37-16-19', facility: '41', number: '30731' },
      { formats: [catalogued('37-0-35')!, split] },
    );
    expect(decide(both, bits, noon)).toMatchObject({ outcome: 'opened', formatId: '37-16-19' });
  });
});

/** SHA-256 as Node has it: an implementation apart from ours, which takes it as given. */
const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
const item = (changes: Partial<Credential> = {}): ItemChange => {
  const credential = { ...card, ...changes };
  return [cardKey(credential.id), canonicalJson(credential)];
};
const formatItem = (id: string): ItemChange => [formatKey(id), canonicalJson(catalogued(id)!)];
const holding = (...changes: ItemChange[]): Holdings => {
  const holdings = new Holdings(sha256);
  holdings.apply(changes);
  return holdings;
};

describe('holdings', () => {
  it('carry a digest that is the sum of the hashes of what is in them, whatever led there', () => {
    const { digest } = holding(item(), formatItem('26-8-16'));
    const plain = [item(), formatItem('26-8-16')]
      .map(([key, text]) => BigInt(`0x${sha256(`${key}\t${text}`)}`))
      .reduce((a, b) => a + b);
    expect(digest).toBe((plain % (1n << 256n)).toString(16).padStart(64, '0'));
    const other = holding(item({ id: 'c9' }), formatItem('26-8-16'), item({ state: 'lost' }));
    other.apply([item(), [cardKey('c9'), null], [cardKey('never there'), null]]);
    expect(other.digest).toBe(digest);
    other.apply([
      [cardKey('c1'), null],
      [formatKey('26-8-16'), null],
    ]);
    expect([other.digest, other.size]).toEqual([EMPTY_DIGEST, 0]);
  });

  it('know the digest that they would have, and decide as an image of the same does, after any changes', () => {
    const anyChange = fc.record({
      id: fc.constantFrom('a', 'b', 'c', 'd'),
      number: fc.constantFrom('9034', '9035'),
      facility: fc.constantFrom('71', '72'),
      state: fc.constantFrom('active' as const, 'lost' as const),
      gone: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(fc.array(anyChange, { maxLength: 4 }), { maxLength: 6 }), (rounds) => {
        const holdings = holding(formatItem('26-8-16'));
        const now = new Map<string, Credential>();
        for (const changes of rounds) {
          const items = changes.map(({ gone, ...rest }): ItemChange => (gone ? [cardKey(rest.id), null] : item(rest)));
          for (const { gone, ...rest } of changes) gone ? now.delete(rest.id) : now.set(rest.id, { ...card, ...rest });
          const foreseen = holdings.digestAfter(items);
          holdings.apply(items);
          expect(holdings.digest).toBe(foreseen);
        }
        const plain = decidePlainly({ ...image(), credentials: [...now.values()] }, read, noon);
        expect(holdings.decide(read, noon).stoppedAt).toBe(plain.stoppedAt);
        expect(holding(formatItem('26-8-16'), ...[...now.values()].map((c) => item(c))).digest).toBe(holdings.digest);
      }),
    );
  });

  it('are compared part by part: only where something differs is asked further', () => {
    const cards = Array.from({ length: 2000 }, (_, i) => item({ id: `c${i}`, number: String(i) }));
    const [one, other] = [holding(...cards), holding(...cards)];
    other.apply([item({ id: 'c77', number: '77', state: 'lost' }), [cardKey('c1500'), null], item({ id: 'extra' })]);
    let asked = 0;
    const differing: string[] = [];
    const look = (prefix: string): void => {
      asked++;
      if (prefix.length === PLACE_DIGITS) {
        const [a, b] = [one.hashesAt(prefix), other.hashesAt(prefix)];
        for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) if (a[key] !== b[key]) differing.push(key);
        return;
      }
      const [a, b] = [one.digestsBelow(prefix), other.digestsBelow(prefix)];
      for (const digit of '0123456789abcdef') if (a[digit] !== b[digit]) look(prefix + digit);
    };
    look('');
    expect(differing.sort()).toEqual(['card c1500', 'card c77', 'card extra']);
    expect(asked).toBeLessThanOrEqual(1 + 3 * PLACE_DIGITS);
  });

  it.each([
    ['card c2', canonicalJson(card), 'is another'],
    ['card c1', JSON.stringify(card), 'not written canonically'],
    [FACILITY_COMPARED, '"yes"', 'expected boolean'],
    ['card c1', canonicalJson({ ...card, number: '1x' }), 'Invalid string'],
  ])('an item that is none is refused: %s %s', (key, text, message) => {
    expect(() => checkItem(key, text)).toThrow(message);
  });
});

describe('canonical JSON', () => {
  it('does not depend on the order of keys', () => {
    expect(canonicalJson({ b: 1, a: { d: [1, null], c: undefined } })).toBe('{"a":{"d":[1,null]},"b":1}');
  });
});
