/** The host of a sector card against the simulated card: written apart, agreeing. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { accessBits, accessBytes, blankSectors, SectorsCard, sectorFrame, valueIn } from '../chip/index.ts';
import { bytesOf, hexOf } from '../cipher/index.ts';
import { SectorsHost, trailerBytes } from './index.ts';

const UID = bytesOf('A1B2C3D4', 'uid');
const FACTORY = bytesOf('FFFFFFFFFFFF', 'key');
const A = bytesOf('A0A1A2A3A4A5', 'key');
const B = bytesOf('B0B1B2B3B4B5', 'key');
const open = () => {
  const card = new SectorsCard(blankSectors('1K', UID));
  const transport = { transmitRaw: async (frame: Uint8Array) => sectorFrame(card, frame) };
  return { card, host: new SectorsHost(transport, UID) };
};

describe('the host of a sector card', () => {
  it('FF 07 80 is what access bits 0 0 0 and 1 are, as delivered (the chip’s data sheet)', () => {
    expect(hexOf(trailerBytes(FACTORY, [0, 0, 0, 1], 0x69, FACTORY))).toBe('FFFFFFFFFFFFFF078069FFFFFFFFFFFF');
    // A directory's sector 0: blocks read with A, written with B (MIFARE application directory, AN10787).
    expect(hexOf(trailerBytes(A, [4, 4, 4, 3], 0xc1, B)).slice(12, 20)).toBe('787788C1');
  });

  it('every access condition that it writes is the one that the card reads', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 7 }), { minLength: 4, maxLength: 4 }), (access) => {
        const bytes = trailerBytes(A, access, 0, B).subarray(6, 9);
        expect(accessBits(bytes)).toEqual(access);
        expect(hexOf(accessBytes(access as [number, number, number, number]))).toBe(hexOf(bytes));
      }),
    );
  });

  it('changes keys, writes, and is refused with the old ones', async () => {
    const { host } = open();
    await host.authenticate(4, 'A', FACTORY);
    await host.write(4, bytesOf('00112233445566778899AABBCCDDEEFF', 'data'));
    await host.write(7, trailerBytes(A, [4, 4, 4, 3], 0, B));
    await expect(host.authenticate(4, 'A', FACTORY)).rejects.toThrow('wrong key');
    await host.authenticate(4, 'A', A);
    expect(hexOf(await host.read(4))).toBe('00112233445566778899AABBCCDDEEFF');
    await expect(host.write(5, new Uint8Array(16))).rejects.toThrow('not allowed');
    await host.authenticate(4, 'B', B);
    await host.write(5, new Uint8Array(16).fill(7));
  });

  it('values go up and down and are copied as the card has them', async () => {
    const { card, host } = open();
    await host.authenticate(8, 'A', FACTORY);
    await host.writeValue(8, -5);
    expect(valueIn(card.memory.blocks[8]!)).toEqual({ value: -5, address: 8 });
    await host.add(8, 105);
    await host.add(8, -30, 9);
    await host.copy(9, 10);
    expect([await host.readValue(8), await host.readValue(9), await host.readValue(10)]).toEqual([100, 70, 70]);
    await host.write(9, new Uint8Array(16).fill(1));
    await expect(host.readValue(9)).rejects.toThrow('no value');
  });
});
