/**
 * OSDP packets, as far as a read needs them: the frame, its CRC-16 or checksum, and the RAW reply that carries the
 * bits of a card. SIA OSDP v2 / IEC 60839-11-5.
 */
import { Bits } from '../bits/index.ts';
import { CRC_OSDP, crcOfBytes } from '../check/index.ts';
import { fail } from '../failure/index.ts';

export const SOM = 0x53;
export const RAW = 0x50;

const REPLIES: Record<string, string> = {
  '40': 'ACK',
  '41': 'NAK',
  '45': 'PDID',
  '46': 'PDCAP',
  '48': 'LSTATR',
  '50': 'RAW',
  '53': 'KEYPAD',
  '54': 'COM',
  '76': 'CCRYPT',
  '78': 'RMAC_I',
};

export interface OsdpFrame {
  /** 0 to 127. */
  address: number;
  isReply: boolean;
  sequence: number;
  code: number;
  data: Uint8Array;
  /** By what the frame was checked. */
  check?: 'crc' | 'checksum';
}

/** The bytes of a frame, with a CRC. */
export function buildOsdpFrame(frame: OsdpFrame): Uint8Array {
  const length = 6 + frame.data.length + 2;
  const head = [SOM, frame.address | (frame.isReply ? 0x80 : 0), length & 255, length >> 8, (frame.sequence & 3) | 4];
  const body = [...head, frame.code, ...frame.data];
  const sum = Number(crcOfBytes(body, CRC_OSDP));
  return Uint8Array.from([...body, sum & 255, sum >> 8]);
}

/**
 * Reads a frame without secure channel. Throws `osdp-short`, `osdp-som`, `osdp-length`, `osdp-crc`, `osdp-checksum` or
 * `osdp-secured`, each with the 1-based byte in `where.column`.
 */
export function parseOsdpFrame(bytes: Uint8Array): OsdpFrame {
  if (bytes.length < 7)
    fail('osdp-short', `${bytes.length} bytes are too few for an OSDP frame.`, { column: bytes.length });
  if (bytes[0] !== SOM) fail('osdp-som', 'An OSDP frame begins with 53.', { column: 1 });
  const length = bytes[2]! | (bytes[3]! << 8);
  if (length !== bytes.length)
    fail('osdp-length', `The frame says it has ${length} bytes, but there are ${bytes.length}.`, { column: 3 });
  const control = bytes[4]!;
  const tail = control & 4 ? 2 : 1;
  checkTail(bytes, tail);
  if (control & 8)
    fail(
      'osdp-secured',
      'The frame belongs to a secure channel: its data is enciphered.',
      { column: 5 },
      'Capture it before the channel is secured.',
    );
  return {
    address: bytes[1]! & 0x7f,
    isReply: (bytes[1]! & 0x80) !== 0,
    sequence: control & 3,
    code: bytes[5]!,
    data: bytes.slice(6, bytes.length - tail),
    check: tail === 2 ? 'crc' : 'checksum',
  };
}

function checkTail(bytes: Uint8Array, tail: 1 | 2): void {
  const body = bytes.subarray(0, bytes.length - tail);
  const hex = (n: number) => n.toString(16).toUpperCase().padStart(2, '0');
  if (tail === 2) {
    const wanted = Number(crcOfBytes(body, CRC_OSDP));
    const found = bytes[bytes.length - 2]! | (bytes[bytes.length - 1]! << 8);
    if (wanted !== found)
      fail(
        'osdp-crc',
        `The CRC is ${hex(found & 255)} ${hex(found >> 8)}, but these bytes give ${hex(wanted & 255)} ${hex(wanted >> 8)}.`,
        { column: bytes.length - 1 },
        'A byte was changed or lost: copy the frame again.',
      );
    return;
  }
  const wanted = -body.reduce((sum, b) => sum + b, 0) & 255;
  if (wanted !== bytes.at(-1))
    fail('osdp-checksum', `The checksum is ${hex(bytes.at(-1)!)}, but these bytes give ${hex(wanted)}.`, {
      column: bytes.length,
    });
}

/** The data of a RAW reply: reader, format code, bit count (least significant byte first), bits left-justified. */
export function rawReplyData(bits: Bits, reader = 0, formatCode = 0): Uint8Array {
  return Uint8Array.from([reader, formatCode, bits.length & 255, bits.length >> 8, ...bits.toBytes()]);
}

/** The bits of a RAW reply. Throws `osdp-not-raw`, `osdp-raw-length`. */
export function bitsOfRawReply(frame: OsdpFrame): Bits {
  if (!frame.isReply || frame.code !== RAW) {
    const code = frame.code.toString(16).toUpperCase();
    const name = frame.isReply ? ` (${REPLIES[code] ?? 'unknown'})` : '';
    fail(
      'osdp-not-raw',
      `This is the OSDP ${frame.isReply ? 'reply' : 'command'} ${code}${name}, which carries no read.`,
      { column: 6 },
      'A read comes in the reply RAW, 50.',
    );
  }
  const count = frame.data.length < 4 ? 0 : frame.data[2]! | (frame.data[3]! << 8);
  const held = frame.data.length - 4;
  if (count < 1 || held !== (count + 7) >> 3)
    fail('osdp-raw-length', `The reply speaks of ${count} bits but holds ${Math.max(held, 0)} bytes of them.`, {
      column: 9,
    });
  return Bits.fromBytes(frame.data.subarray(4)).slice(1, count);
}
