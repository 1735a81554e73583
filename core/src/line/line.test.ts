import { crc16ccitt } from 'crc';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBits } from '../../testing/anyBits.ts';
import { Bits } from '../bits/index.ts';
import {
  bitsOfRawReply,
  bitsOfTrack,
  buildOsdpFrame,
  parseOsdpFrame,
  pulsesOf,
  RAW,
  rawReplyData,
  receivePulses,
  trackOfBits,
} from './index.ts';

const bytes = (hex: string) => Uint8Array.from(Buffer.from(hex.replace(/ /g, ''), 'hex'));

describe('Wiegand pulses', () => {
  it('read → pulses → read, at any timing the standard allows', () => {
    fc.assert(
      fc.property(
        anyBits(),
        fc.integer({ min: 20, max: 100 }),
        fc.integer({ min: 200, max: 20_000 }),
        (bits, widthUs, spacingUs) => {
          const { reads, faults } = receivePulses(pulsesOf(bits, { widthUs, spacingUs }, 1234));
          expect(faults).toEqual([]);
          expect(reads.map((r) => r.bits.toBinary())).toEqual([bits.toBinary()]);
          expect(reads[0]!.endUs).toBe(1234 + (bits.length - 1) * spacingUs + widthUs);
        },
      ),
    );
  });

  it('a 0 is a pulse on DATA0, a 1 on DATA1, the first bit first (SIA AC-01-1996.10)', () => {
    expect(pulsesOf(Bits.fromBinary('01'), { widthUs: 50, spacingUs: 1000 })).toEqual([
      { atUs: 0, wire: 0, widthUs: 50 },
      { atUs: 1000, wire: 1, widthUs: 50 },
    ]);
  });

  it('a pause of 50 ms parts two reads', () => {
    const [a, b] = [Bits.fromBinary('1011'), Bits.fromBinary('0001')];
    const { reads } = receivePulses([...pulsesOf(a), ...pulsesOf(b, undefined, 60_000)]);
    expect(reads.map((r) => r.bits.toBinary())).toEqual(['1011', '0001']);
  });

  it('faults on the line are told, not decoded', () => {
    expect(
      receivePulses([
        { atUs: 0, wire: 0, widthUs: 5 },
        { atUs: 1000, wire: 1, widthUs: 50 },
      ]),
    ).toMatchObject({
      faults: [{ code: 'pulse-width' }],
      reads: [{ endUs: 1050 }],
    });
    expect(
      receivePulses([
        { atUs: 0, wire: 0, widthUs: 50 },
        { atUs: 10, wire: 1, widthUs: 50 },
      ]),
    ).toMatchObject({
      faults: [{ code: 'both-wires' }],
      reads: [],
    });
    const endless = Array.from({ length: 513 }, (_, i) => ({ atUs: i * 1000, wire: 1 as const, widthUs: 50 }));
    expect(receivePulses(endless)).toMatchObject({ faults: [{ code: 'too-long' }], reads: [] });
    expect(() => pulsesOf(Bits.fromBinary('1'), { widthUs: 5, spacingUs: 1000 })).toThrow('20 to 100');
  });
});

describe('OSDP', () => {
  // DOMAIN §1: a POLL to address 0 with sequence 0 and CRC.
  it('a POLL frame', () => {
    expect(
      Buffer.from(
        buildOsdpFrame({ address: 0, isReply: false, sequence: 0, code: 0x60, data: new Uint8Array() }),
      ).toString('hex'),
    ).toBe('53000800046 0ebaa'.replace(' ', ''));
  });

  it('frames carry the CRC that the registry library "crc" gives, and RAW replies go round', () => {
    fc.assert(
      fc.property(anyBits(), fc.nat(127), fc.nat(3), (bits, address, sequence) => {
        const frame = buildOsdpFrame({ address, isReply: true, sequence, code: RAW, data: rawReplyData(bits) });
        expect(frame[frame.length - 2]! | (frame[frame.length - 1]! << 8)).toBe(
          crc16ccitt(Buffer.from(frame.subarray(0, -2)), 0x1d0f),
        );
        const parsed = parseOsdpFrame(frame);
        expect(parsed).toMatchObject({ address, sequence, isReply: true });
        expect(bitsOfRawReply(parsed).equals(bits)).toBe(true);
      }),
    );
  });

  it.each([
    ['53 00 08 00 04 60 EB AB', 'The CRC is EB AB, but these bytes give EB AA'],
    ['53 00 09 00 04 60 EB AA', 'says it has 9 bytes, but there are 8'],
    ['54 00 08 00 04 60 EB AA', 'begins with 53'],
    ['53 00', '2 bytes are too few'],
  ])('%s is refused', (hex, message) => {
    expect(() => parseOsdpFrame(bytes(hex))).toThrow(message);
  });

  it('a frame with a checksum instead of a CRC', () => {
    const body = [0x53, 0x80, 0x07, 0x00, 0x00, 0x40];
    const sum = (256 - (body.reduce((a, b) => a + b) & 255)) & 255;
    const ack = parseOsdpFrame(Uint8Array.from([...body, sum]));
    expect(ack.code).toBe(0x40);
    expect(() => bitsOfRawReply(ack)).toThrow('OSDP reply 40 (ACK), which carries no read');
    expect(() => parseOsdpFrame(Uint8Array.from([...body, sum ^ 1]))).toThrow('checksum');
  });
});

describe('clock and data', () => {
  // ISO/IEC 7811-2: `;` is 1101 and parity 0, `?` is 1111 and parity 1, digits least significant bit first, odd parity.
  it('sentinels, digits and LRC', () => {
    const bits = bitsOfTrack(';12?');
    expect(bits.toBinary()).toBe('11010' + '10000' + '01000' + '11111' + '11100');
    expect(trackOfBits(bits)).toBe(';12?7');
    expect(bitsOfTrack(';12?7').equals(bits)).toBe(true);
  });

  it('goes round for any digits', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[0-9=]{1,90}$/), (digits) => {
        expect(trackOfBits(bitsOfTrack(`;${digits}?`)).slice(0, -1)).toBe(`;${digits}?`);
      }),
    );
  });

  it.each([
    [';12', 'end sentinel'],
    ['12?', 'start sentinel'],
    [';1A?', '"A" is not a character'],
    [';12?8', 'The LRC is "8", but these characters give "7"'],
  ])('%s is refused', (text, message) => {
    expect(() => bitsOfTrack(text)).toThrow(message);
  });
});
