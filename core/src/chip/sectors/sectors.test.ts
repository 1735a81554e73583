/** Sector cards: access bits and directory from their published examples, and a card that keeps to them. */
import { crcjam } from 'crc';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesOf, hexOf, littleEndian } from '../../cipher/index.ts';
import { crc32, crcA } from '../field/crc.ts';
import { cascadeLevels, selectIn } from '../field/identity.ts';
import {
  accessBits,
  accessBytes,
  blankSectors,
  directoryIn,
  filesIdFrom,
  SectorRefused,
  SectorsCard,
  valueBlock,
  valueIn,
} from './index.ts';

const hex = (text: string) => bytesOf(text, 'test');
const FF = 'FFFFFFFFFFFF';

describe('checksums and identifiers', () => {
  it('CRC_A: ISO/IEC 14443-3 annex B; CRC-32 as a registry library has it, not inverted', () => {
    expect([hexOf(crcA(hex('0000'))), hexOf(crcA(hex('1234')))]).toEqual(['A01E', '26CF']);
    expect(hexOf(crcA(new TextEncoder().encode('123456789')))).toBe('05BF');
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        expect(hexOf(crc32(bytes))).toBe(hexOf(littleEndian(crcjam(Buffer.from(bytes)) >>> 0, 4)));
      }),
    );
  });

  it('a UID of 4, 7 or 10 bytes in its cascade levels, each with its check byte', () => {
    expect(cascadeLevels(hex('01020304')).map(hexOf)).toEqual(['0102030404']);
    expect(cascadeLevels(hex('04112233445566')).map(hexOf)).toEqual(['88041122BF', '3344556644']);
    expect(cascadeLevels(hex('01020304050607080910'))).toHaveLength(3);
  });

  it('two cards in the field are told, not chosen from', () => {
    expect(selectIn([])).toBe('no card');
    expect(selectIn([hex('01020304')])).toEqual({ uid: hex('01020304') });
    expect(selectIn([hex('01020304'), hex('01020305')])).toBe('two cards');
    expect(selectIn([hex('04112233445566'), hex('01020304')])).toBe('two cards');
  });
});

describe('access bits', () => {
  it('as delivered, and of a directory sector: FF 07 80, 78 77 88 (data sheet; AN10787)', () => {
    expect(accessBits(hex('FF0780'))).toEqual([0, 0, 0, 1]);
    expect(accessBits(hex('787788'))).toEqual([4, 4, 4, 3]);
    expect(accessBits(hex('FF0781'))).toBeUndefined();
  });

  it('come back as they were written', () => {
    const bits = fc.array(fc.integer({ min: 0, max: 7 }), { minLength: 4, maxLength: 4 });
    fc.assert(
      fc.property(bits, (groups) => {
        expect(accessBits(accessBytes(groups))).toEqual(groups);
      }),
    );
  });
});

describe('a value', () => {
  it('100 at address 5 [computed, CHIPS]', () => {
    expect(hexOf(valueBlock(100, 5))).toBe('640000009BFFFFFF6400000005FA05FA');
    expect(valueIn(hex('640000009BFFFFFF6400000005FA05FB'))).toBeUndefined();
    fc.assert(fc.property(fc.integer(), (value) => valueIn(valueBlock(value, 9))?.value === value));
  });
});

describe('the directory', () => {
  it('the worked example: CRC 89 [CHIPS]', () => {
    const bytes = hex('01 0108 0108 0108 000000000000 0400 0310 0310 0210 0210 000000000000 1130');
    const block = (crcByte: string) => [hex(`${crcByte}${hexOf(bytes.subarray(0, 15))}`), bytes.subarray(15)] as const;
    expect(directoryIn(...block('89'))).toMatchObject({ crc: 0x89, holds: true, publisher: 1 });
    expect(directoryIn(...block('88')).holds).toBe(false);
    expect(directoryIn(...block('89')).applications[0]).toEqual({ sector: 1, id: '0801' });
  });

  it('an identifier for a file-system card: cluster 12, application AB, 8 [CHIPS]', () => {
    expect(hexOf(littleEndian(filesIdFrom(0x12, 0xab, 8), 3))).toBe('B82AF1');
  });
});

describe('a card', () => {
  const make = (size: '1K' | '4K' = '1K') => {
    const card = new SectorsCard(blankSectors(size, hex('01020304')));
    const refused = (act: () => unknown): string => {
      try {
        act();
        return 'done';
      } catch (error) {
        if (error instanceof SectorRefused) return error.why;
        throw error;
      }
    };
    return { card, refused };
  };
  const block = (byte: string) => hex(byte.repeat(16));

  it('reads and writes within the sector whose key was given, and nowhere else', () => {
    const { card, refused } = make();
    expect(refused(() => card.read(4))).toBe('not authenticated');
    card.authenticate(4, 'A', hex(FF));
    card.write(5, block('AB'));
    expect(hexOf(card.read(5))).toBe('AB'.repeat(16));
    expect(refused(() => card.read(8))).toBe('not authenticated');
    // What was refused ended the session.
    expect(refused(() => card.read(5))).toBe('not authenticated');
    expect(refused(() => card.authenticate(4, 'A', hex('000000000000')))).toBe('wrong key');
    // As delivered key B can be read, so it authenticates nobody.
    expect(refused(() => card.authenticate(4, 'B', hex(FF)))).toBe('not allowed');
    card.authenticate(0, 'A', hex(FF));
    expect(refused(() => card.write(0, block('00')))).toBe('not allowed');
    expect(refused(() => card.read(64))).toBe('no such block');
  });

  it('a trailer shows no key A, and takes keys and bits where they may be written', () => {
    const { card, refused } = make();
    card.authenticate(7, 'A', hex(FF));
    expect(hexOf(card.read(7))).toBe(`000000000000FF078069${FF}`);
    // Data 100 (read A|B, write B), trailer 011.
    card.write(7, hex(`A0A1A2A3A4A5${hexOf(accessBytes([4, 4, 4, 3]))}00B0B1B2B3B4B5`));
    card.authenticate(4, 'A', hex('A0A1A2A3A4A5'));
    expect(refused(() => card.write(4, block('11')))).toBe('not allowed');
    card.authenticate(4, 'B', hex('B0B1B2B3B4B5'));
    card.write(4, block('11'));
    expect(hexOf(card.read(7))).toBe(`000000000000${hexOf(accessBytes([4, 4, 4, 3]))}00000000000000`);
  });

  it('wrong access bits lock the sector for good', () => {
    const { card, refused } = make();
    card.authenticate(7, 'A', hex(FF));
    card.write(7, hex(`${FF}FF078169${FF}`));
    expect(refused(() => card.authenticate(4, 'A', hex(FF)))).toBe('locked');
  });

  it('values are increased, decreased, restored and transferred; nothing stands until it is transferred', () => {
    const { card, refused } = make();
    card.authenticate(4, 'A', hex(FF));
    expect(refused(() => card.change(4, 'increment', 1))).toBe('no value');
    card.authenticate(4, 'A', hex(FF));
    card.write(4, valueBlock(100, 4));
    card.change(4, 'decrement', 30);
    expect(valueIn(card.read(4))!.value).toBe(100);
    card.transfer(5);
    expect([valueIn(card.read(4))!.value, valueIn(card.read(5))!.value]).toEqual([100, 70]);
    card.change(5, 'restore');
    card.transfer(6);
    expect(valueIn(card.read(6))!.value).toBe(70);
    card.powerOff();
    card.authenticate(4, 'A', hex(FF));
    expect(refused(() => card.transfer(5))).toBe('no value');
  });

  it('of 4K the upper sectors have sixteen blocks in groups of five', () => {
    const { card, refused } = make('4K');
    card.authenticate(143, 'A', hex(FF));
    // Group 1 (blocks 5 to 9) may never be written.
    card.write(143, hex(`${FF}${hexOf(accessBytes([0, 2, 0, 1]))}69${FF}`));
    for (const [at, outcome] of [
      [128, 'done'],
      [132, 'done'],
      [133, 'not allowed'],
      [137, 'not allowed'],
      [138, 'done'],
    ] as const) {
      card.authenticate(128, 'A', hex(FF));
      expect(refused(() => card.write(at, block('22')))).toBe(outcome);
    }
  });
});
