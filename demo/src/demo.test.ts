/** The demo's data is true to itself: what is printed on a card is in its bits, and the story's card is ambiguous. */
import { chipInsideSchema } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode, fitsOf } from '@rawbits/core/codec';
import { agreementOf, printedNumbers } from '@rawbits/core/identify';
import { describe, expect, it } from 'vitest';
import { deliveredBy, memoryOf } from '../../rig/src/credential/inside.ts';
import {
  CARDHOLDERS,
  CARDS,
  CONTROLLERS,
  FORMATS,
  LATE_CARD,
  OPERATORS,
  PRESENTATIONS,
  READERS,
  TRAY,
} from './skerryPoint.ts';

const fullFits = (bits: string) => fitsOf(Bits.fromBinary(bits), CATALOGUE).filter((fit) => fit.fit === 'full');

/** The bits that a reader takes from a card of the tray; empty where it sees nothing. */
const bitsIn = (card: (typeof TRAY)[number]): string => {
  if ('bits' in card) return card.bits;
  return (
    deliveredBy(memoryOf(chipInsideSchema.parse(card.chip), 'one'), (count) => new Uint8Array(count))?.toBinary() ?? ''
  );
};

describe('the demo', () => {
  it.each(
    TRAY.filter((card) => card.printed !== '' && bitsIn(card) !== '').map((card) => [card.id, card] as const),
  )('%s: the print agrees with its bits', (_, card) => {
    const prints = printedNumbers(card.printed);
    const numbers = fullFits(bitsIn(card)).filter((fit) => agreementOf(fit.values, prints) !== undefined);
    expect(numbers.length).toBeGreaterThan(0);
  });

  it('the boat shed’s card fits two formats in full, and its print leaves one', () => {
    const [card] = TRAY.filter((c) => c.id === 'unlabelled-1');
    const fits = fullFits(bitsIn(card!));
    expect(fits.map((fit) => fit.format.id).sort()).toEqual(['37-0-35', '37-16-19']);
    expect(
      fits.filter((fit) => agreementOf(fit.values, printedNumbers(card!.printed))).map((fit) => fit.format.id),
    ).toEqual(['37-16-19']);
  });

  it('the fob that no reader has seen sends at another rate, and nothing else is wrong with it', () => {
    const fob = TRAY.find((c) => c.id === 'slow-fob')!;
    expect(bitsIn(fob)).toBe('');
    expect(
      'chip' in fob && fullFits(bitsIn({ ...fob, chip: { ...fob.chip, rate: 64 } } as never)).length,
    ).toBeGreaterThan(0);
  });

  it('the bad copy fits nothing in full', () => {
    expect(fullFits(bitsIn(TRAY.find((c) => c.id === 'bad-copy')!))).toEqual([]);
  });

  it('every card on file can be encoded, and its holder exists', () => {
    for (const { formatId, facility, number, holder } of [...CARDS, LATE_CARD]) {
      expect(encode(catalogued(formatId)!, { facility, number }).length).toBe(catalogued(formatId)!.bits);
      if (holder !== null) expect(CARDHOLDERS.map((h) => h.name)).toContain(holder);
      expect(FORMATS).toContain(formatId);
    }
  });

  it('readers, controllers and presentations belong together', () => {
    const devices = CONTROLLERS.map((c) => c.device);
    for (const { controller } of READERS) if (controller !== null) expect(devices).toContain(controller);
    for (const [card, reader] of PRESENTATIONS) {
      expect(TRAY.map((c) => c.id as string)).toContain(card);
      expect(READERS.map((r) => r.device as string)).toContain(reader);
    }
  });

  it('passwords are long enough for the server', () => {
    for (const { password } of OPERATORS) expect(password.length).toBeGreaterThanOrEqual(10);
  });
});
