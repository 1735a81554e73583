import type { Controller, DecisionNow, SiteFormat } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { printLayoutLine } from '@rawbits/core/format';
import { intake } from '@rawbits/core/intake';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { borneOut, inOrder, nextStep, nowInWords, shownAt, verdictOf, viewOf } from './view.ts';

const library: SiteFormat[] = CATALOGUE.map((format) => ({
  format,
  version: 1,
  layout: printLayoutLine(format),
  createdAt: '2026-01-01T00:00:00.000Z',
  createdBy: 'Raw Bits',
  reason: 'from the catalogue',
  newest: 1,
  retiredAt: null,
  provenOn: 0,
  adopted: format.id === '26-8-16',
}));
const boat = encode(catalogued('37-16-19')!, { facility: '2214', number: '118406' }).toBinary();
const controller = (wantedFormats: string[]) => [{ name: 'Boat shed', wantedFormats }] as Controller[];

describe('a pasted text whose length is not known', () => {
  const readings = intake('028E4694', { formats: CATALOGUE }).readings.map(({ notation, bits, note = '' }) => ({
    notation,
    bits: bits.toBinary(),
    note,
  }));

  it('is held against the print in every reading of it; those that the print bears out are told, formats in use first', () => {
    const found = borneOut(readings, readings[0]!.bits, library, '9034');
    expect(found.map(({ reading, rows }) => [reading.bits.length, rows.map(({ format }) => format.id)])).toEqual([
      [26, ['26-8-16']],
    ]);
    expect(borneOut(readings, readings[0]!.bits, library, '9035')).toEqual([]);
    expect(borneOut(readings, found[0]!.reading.bits, library, '9034')).toEqual([]);
  });
});

describe('fits and the print', () => {
  it('two 37-bit formats fit in full; the print leaves one and puts it first', () => {
    expect(viewOf(boat, library, '', null).sentence).toContain('2 formats fit in full');
    const view = viewOf(boat, library, '118406', null);
    expect(view.rows.map((r) => [r.format.id, r.fit, r.print])).toEqual([
      ['37-16-19', 'full', 'number'],
      ['37-0-35', 'full', null],
    ]);
    expect(view.sentence).toContain('The print leaves one');
    expect(view.windows.length).toBeGreaterThan(0);
  });

  it('a print that agrees with none says so, and one that is no number keeps the fits', () => {
    expect(viewOf(boat, library, '999', null).sentence).toContain('agrees with none');
    const view = viewOf(boat, library, '11840Z', null);
    expect(view.printFailure?.message).toContain('"Z" is no digit');
    expect(view.rows.length).toBe(2);
  });

  it('swapped data wires are recognised, a lost bit is suspected', () => {
    const read = encode(catalogued('26-8-16')!, { facility: '58', number: '10233' });
    expect(viewOf(read.invert().toBinary(), library, '', null).sentence).toContain('data wires swapped');
    expect(viewOf(read.slice(1, 25).toBinary(), library, '', null).sentence).toContain('was a bit lost or added');
    expect(viewOf('1'.repeat(45), library, '', null).sentence).toContain('No format in the library has 45 bits');
  });
});

describe('the likely next step', () => {
  it('goes from print to door to person', () => {
    const open = viewOf(boat, library, '', null);
    const told = viewOf(boat, library, '118406', null);
    expect(nextStep(open, controller([]), false).step).toBe('none');
    expect(nextStep(told, controller([]), false).step).toBe('accept');
    expect(nextStep(told, controller(['37-16-19']), false).step).toBe('issue');
    expect(nextStep(told, controller(['37-16-19']), true).step).toBe('stock');
  });
});

describe('while something loads', () => {
  it('nothing is said of what fits, of doors or of the file', () => {
    const view = viewOf(boat, undefined, '', null);
    expect([view.sentence, view.isLoading, view.rows]).toEqual(['Loading …', true, []]);
    const told = viewOf(boat, library, '118406', null);
    expect(nextStep(told, undefined, true)).toEqual({ step: 'none', words: 'Loading …' });
    expect(nextStep(told, controller(['37-16-19']), undefined)).toEqual({ step: 'none', words: 'Loading …' });
  });
});

describe('what is said of a read and the doors', () => {
  const card = { facility: '2214', number: '118406', holder: { id: 'h', name: 'Isak' } };
  const used = library.map((one) => ({ ...one, adopted: one.format.id === '37-16-19' }));

  it('of two formats that fit, the one in use and the card on file come first; a print parts them', () => {
    const open = viewOf(boat, library, '', null);
    expect(verdictOf(open)).toBe(open.sentence);
    expect(open.sentence).toBe('2 formats fit in full: each of them is possible. Type what is printed on the card.');
    const inUse = viewOf(boat, used, '', null);
    const { name } = catalogued('37-16-19')!;
    expect(verdictOf(inUse)).toContain(`One is in use here: ${name}.`);
    expect(verdictOf(inUse, card)).toContain(`By ${name}, which is in use here, it is on file as 2214/118406, Isak.`);
    const told = viewOf(boat, used, '118406', null);
    expect(verdictOf(told, card)).toBe(told.sentence);
  });

  it('what the doors would do now is by what is loaded, door by door', () => {
    const decision = (door: string, outcome: 'opened' | 'refused') =>
      ({ door: { id: door, name: door }, outcome }) as DecisionNow;
    expect(nowInWords([])).toBe('No door of this site has been loaded yet.');
    expect(nowInWords([decision('Dock', 'refused')])).toBe('As the controllers are loaded now, Dock refuses it.');
    expect(nowInWords([decision('Shed', 'opened'), decision('Shed', 'refused'), decision('Dock', 'refused')])).toBe(
      'As the controllers are loaded now, it opens Shed, and not Dock.',
    );
  });
});

describe('showing a read in another order', () => {
  it('every bit is where shownAt says', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 64 }),
        fc.constantFrom('as sent', 'bytes reversed', 'bits reversed'),
        (bytes, order) => {
          const bits = Bits.fromBytes(bytes);
          const shown = inOrder(bits, order);
          const place = shownAt(order, bits.length);
          for (let p = 1; p <= bits.length; p++) expect(shown.at(place(p))).toBe(bits.at(p));
        },
      ),
    );
  });
});
