import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyLayout } from '../../testing/anyLayout.ts';
import { decidePlainly } from '../../testing/decidePlainly.ts';
import { type ControllerImage, type Credential, EMPTY_IMAGE } from '../access/index.ts';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { decode, encode } from '../codec/index.ts';
import { FORMAT_SCHEMA, type Format, isSound, parseLayoutLine } from '../format/index.ts';
import { DryRun, type Outcome, sideOf } from './index.ts';

const NOW = Date.parse('2026-06-01T12:00:00Z');
const OPEN_26 = catalogued('26-8-16')!;
const named = (id: string, line: string): Format => ({ schema: FORMAT_SCHEMA, id, name: id, ...parseLayoutLine(line) });
const card = (id: string, format: string, facility: string | null, number: string, more = {}): Credential => ({
  id,
  format,
  facility,
  number,
  holder: null,
  state: 'active',
  validFrom: null,
  validTo: null,
  ...more,
});

/** What becomes of a read, by the rules as they are written down plainly. */
function plainly(before: ControllerImage, after: ControllerImage, bits: Bits): Outcome {
  const [a, b] = [decidePlainly(before, bits, NOW), decidePlainly(after, bits, NOW)];
  if ((a.stoppedAt === undefined) !== (b.stoppedAt === undefined))
    return a.stoppedAt === undefined ? 'newly refused' : 'newly accepted';
  // A read that a format without a value fits is another thing than one that none fits.
  const values = (d: typeof a) => d.values && JSON.stringify(Object.entries(d.values).sort());
  return values(a) === values(b) ? 'same' : 'decoded differently';
}

/** How many different numbers (with their codes) the formats that a read fits in full cut out of it. */
function sayings(formats: readonly Format[], bits: Bits): number {
  const full = formats.filter(isSound).flatMap((format) => {
    const { fit, values } = format.bits === bits.length ? decode(bits, format) : { fit: 'no', values: {} };
    return fit === 'full' && 'number' in values ? `${values.facility} ${values.number}` : [];
  });
  return new Set(full).size;
}

describe('a dry run', () => {
  it('agrees with deciding everything one by one, on random small sites', () => {
    const anySite = fc.record({
      layouts: fc.array(anyLayout, { minLength: 2, maxLength: 5 }),
      length: fc.integer({ min: 8, max: 40 }),
      seeds: fc.array(fc.bigInt({ min: 0n, max: (1n << 40n) - 1n }), { minLength: 1, maxLength: 12 }),
      compares: fc.boolean(),
      drop: fc.nat(4),
      gains: fc.boolean(),
    });
    fc.assert(
      fc.property(anySite, ({ layouts, length, seeds, compares, drop, gains }) => {
        // Small formats of one length, beside random ones, so that several fit the same read.
        const small = [
          `${length} | 1-${length - 4} number`,
          `${length} | 1 even 2-${length} | 2-4 facility | 5-${length} number`,
        ];
        const formats = [
          ...small.map((line, i) => named(`s-${i}`, line)),
          ...layouts.map((layout, i): Format => ({ schema: FORMAT_SCHEMA, id: `f-${i}`, name: `f-${i}`, ...layout })),
        ];
        const reads = seeds.flatMap((seed) => {
          const zeros = (format: Format) =>
            Object.fromEntries(
              format.spans.flatMap((s) =>
                s.role === 'value'
                  ? [[s.label, '0']]
                  : ['facility', 'number', 'issue'].includes(s.role)
                    ? [[s.role, String(seed % 3n)]]
                    : [],
              ),
            );
          return [
            Bits.build(length, (p) => Number((seed >> BigInt(p)) & 1n)),
            ...formats.map((format) => encodeOr(format, zeros(format))),
          ].filter((bits) => bits !== undefined);
        });
        const numbers = ['0', '1', '2', ...seeds.map(String)];
        const credentials = numbers.map((number, i) =>
          card(`c-${i}`, 's-0', i % 3 === 0 ? null : String(i % 3), number, i % 5 === 4 ? { state: 'lost' } : {}),
        );
        const all = { formats, credentials, comparesFacility: compares };
        const fewer = { ...all, formats: formats.filter((_, i) => i !== drop % formats.length) };
        const [before, after] = gains ? [fewer, all] : [all, fewer];
        const run = new DryRun([{ id: 'x', name: 'X', before: sideOf(before), after: sideOf(after) }], { atMs: NOW });
        const counts = { same: 0, 'decoded differently': 0, 'newly accepted': 0, 'newly refused': 0 };
        reads.forEach((bits, i) => {
          const wanted = plainly(before, after, bits);
          counts[wanted]++;
          expect(run.read(String(i), bits)).toBe(wanted);
        });
        expect(run.result().reads).toEqual(counts);
        const ambiguous = reads.filter((bits) => {
          const [today, then] = [sayings(before.formats, bits), sayings(after.formats, bits)];
          return then > 1 && then > today;
        });
        expect(run.result().ambiguous.reads).toBe(ambiguous.length);
      }),
      { numRuns: 60 },
    );
  });

  it('a facility code that moves out of the bits is told by its value, not by where it comes from', () => {
    const carried = named('f', '26 | 2-9 facility | 10-25 number');
    const place = (after: Format) => {
      const image = { ...EMPTY_IMAGE, credentials: [card('1', 'f', '58', '1023')], comparesFacility: true };
      return [
        {
          id: 'p',
          name: 'Door',
          before: sideOf({ ...image, formats: [carried] }),
          after: sideOf({ ...image, formats: [after] }),
        },
      ];
    };
    const bits = encode(carried, { facility: '58', number: '1023' });
    const outcome = (after: Format) => new DryRun(place(after), { atMs: NOW }).read('r', bits);
    expect(outcome(named('f', '26 | 10-25 number | facility = 58'))).toBe('same');
    expect(outcome(named('f', '26 | 10-25 number | facility = 59'))).toBe('newly refused');
    expect(outcome(named('f', '26 | 1 value "x" | 2-9 facility | 10-25 number'))).toBe('decoded differently');
  });

  it('a mask moved by one bit refuses the card that opens today, and says why', () => {
    const moved = named('26-8-16', '26 | 1 even 2-13 | 2-8 facility | 9-24 number | 26 odd 14-25');
    const before: ControllerImage = {
      formats: [OPEN_26],
      credentials: [card('c', '26-8-16', '58', '10233')],
      comparesFacility: true,
    };
    const run = new DryRun(
      [{ id: 'm', name: 'Main', before: sideOf(before), after: sideOf({ ...before, formats: [moved] }) }],
      {
        atMs: NOW,
      },
    );
    const bits = encode(OPEN_26, { facility: '58', number: '10233' });
    expect(run.card('c', 'card 58/10233', bits)).toBe('newly refused');
    expect(run.card('d', 'unknown', undefined)).toBeUndefined();
    expect(run.result()).toMatchObject({
      unknownCards: 1,
      cards: { 'newly refused': 1, same: 0 },
      cardExamples: [
        {
          place: 'Main',
          before: { opened: true, values: { facility: '58', number: '10233' } },
          after: { opened: false, values: { facility: '29', number: '5116' }, reason: expect.stringContaining('5116') },
        },
      ],
    });
  });

  it('a second format of one length makes a card ambiguous, and names the card it could be taken for', () => {
    const whole = catalogued('26-0-24')!;
    const image: ControllerImage = {
      formats: [OPEN_26],
      credentials: [card('c', '26-8-16', '58', '10233'), card('other', '26-0-24', null, String(58 * 65536 + 10233))],
      comparesFacility: true,
    };
    const place = (formats: Format[]) =>
      new DryRun([{ id: 'm', name: 'Main', before: sideOf(image), after: sideOf({ ...image, formats }) }], {
        atMs: NOW,
      });
    const bits = encode(OPEN_26, { facility: '58', number: '10233' });
    const run = place([OPEN_26, whole]);
    expect(run.card('c', '58/10233', bits)).toBe('same');
    expect(run.result().ambiguous).toMatchObject({
      cards: 1,
      examples: [
        {
          kind: 'cards',
          place: 'Main',
          meanings: [
            { format: '26-8-16', number: '10233', facility: '58', card: { id: 'c' } },
            { format: '26-0-24', number: '3811321', facility: null, card: { id: 'other', name: '3811321' } },
          ],
        },
      ],
    });
    // Two formats that say the same of a card leave nothing open.
    const twin = { ...OPEN_26, id: 'twin', name: 'twin' };
    const twins = place([OPEN_26, twin]);
    twins.card('c', '58/10233', bits);
    expect(twins.result().ambiguous).toEqual({ cards: 0, reads: 0, examples: [] });
  });

  it('a read that differs at one controller of several counts once, as the gravest', () => {
    const full = sideOf({
      formats: [OPEN_26],
      credentials: [card('c', '26-8-16', '58', '1')],
      comparesFacility: true,
    });
    const places = [
      { id: 'a', name: 'A', before: full, after: full },
      { id: 'b', name: 'B', before: full, after: { ...full, formats: [] } },
      { id: 'c', name: 'C', before: sideOf(EMPTY_IMAGE), after: full },
    ];
    const run = new DryRun(places, { atMs: NOW, examples: 1 });
    const bits = encode(OPEN_26, { facility: '58', number: '1' });
    expect([run.read('1', bits), run.read('2', bits)]).toEqual(['newly refused', 'newly refused']);
    const { reads, places: by, readExamples } = run.result();
    expect(reads).toEqual({ same: 0, 'decoded differently': 0, 'newly accepted': 0, 'newly refused': 2 });
    expect(by.map((p) => Object.values(p.reads))).toEqual([
      [2, 0, 0, 0],
      [0, 0, 0, 2],
      [0, 0, 2, 0],
    ]);
    expect(readExamples.map((e) => e.outcome)).toEqual(['newly refused', 'newly accepted']);
  });
});

function encodeOr(format: Format, values: Record<string, string>): Bits | undefined {
  try {
    return encode(format, values);
  } catch {
    return undefined;
  }
}
