import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { type ControllerImage, type Credential, decide, differenceOf, EMPTY_IMAGE, imageText } from './index.ts';

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

describe('what waits to be loaded', () => {
  it('names what is added, changed and removed', () => {
    expect(differenceOf(image(), EMPTY_IMAGE)).toEqual({
      added: ['format 26-8-16', 'card c1'],
      changed: [],
      removed: [],
    });
    expect(differenceOf(image({ state: 'lost' }), image())).toEqual({ added: [], changed: ['card c1'], removed: [] });
    expect(differenceOf(image({}, { formats: [] }), image()).removed).toEqual(['format 26-8-16']);
  });

  it('does not depend on order', () => {
    const two = image({}, { formats: [open26, catalogued('24-8-16')!] });
    expect(imageText(two)).toBe(imageText({ ...two, formats: [...two.formats].reverse() }));
  });
});
