/** OSDP frames in a text: one, or a stream of them. A damaged, cut or doubled frame is never taken for a credential. */
import { fail, failureOf } from '../failure/index.ts';
import { bitsOfRawReply, type OsdpFrame, parseOsdpFrame, RAW, SOM } from '../line/index.ts';
import { bytesOf } from './hex.ts';
import type { Reading } from './reading.ts';

const LEAST_FRAME = 7;
/** More bytes than a UID has. */
const LONG = 10;
/** Packets of up to 1440 bytes: SIA OSDP v2 [from memory]. */
const MOST_FRAME = 1440;
/** A UID has 4, 7 or 10 bytes, of which the first may be 53: ISO/IEC 14443-3 §6.5.4. */
const UIDS = [4, 7, 10];

/** Whether bytes begin as a frame does: its first byte, a length that a frame can have, and a control byte without reserved bits. SIA OSDP v2, packet format [from memory]. */
function beginsAsFrame(bytes: Uint8Array, from = 0): boolean {
  const [som, , low, high, control] = bytes.subarray(from);
  if (som !== SOM || control === undefined) return false;
  const length = low! | (high! << 8);
  const isLength = length >= LEAST_FRAME && length <= MOST_FRAME;
  const isControl = (control & 0xf0) === 0;
  return UIDS.includes(bytes.length - from) ? isLength && isControl : isLength || isControl;
}

/** Digits that would be whole frames if the first byte were 53: it was changed, lost, doubled, or exchanged with its neighbour. */
function lostItsStart(digits: string): boolean {
  if (digits.length < 2 * LONG) return false;
  const bare = digits.replace(/^f+/i, '');
  const mended = [
    `5${bare}`,
    `53${bare.slice(1)}`,
    `53${bare.slice(2)}`,
    `53${bare[1]}${bare.slice(3)}`,
    bare.slice(1),
    bare.slice(2),
    bare,
  ];
  return mended.some(
    (other) => other !== digits && /^53/.test(other) && other.length % 2 === 0 && isWhole(bytesOf(other)),
  );
}

function isWhole(bytes: Uint8Array): boolean {
  try {
    parseOsdpFrame(bytes);
    return true;
  } catch {
    return false;
  }
}

/**
 * The RAW replies of the frames that digits are, in their order; undefined where they are no frames. Throws what the frame is refused
 * for, `osdp-som`, `osdp-damaged`, `osdp-cut`, `osdp-tail`, or what `parseOsdpFrame` and `bitsOfRawReply` throw, with the 1-based byte in `where.column`.
 */
export function framesIn(digits: string): Reading[] | undefined {
  const bytes = bytesOf(digits);
  const start = marks(bytes, 0);
  const isLong = bytes.length - start > LONG;
  const isFrame = digits.length % 2 === 0 && beginsAsFrame(bytes, start);
  if (!isFrame && lostItsStart(digits))
    fail('osdp-som', 'This is an OSDP frame but for its first byte, which is 53.', { column: start + 1 }, AS_HEX);
  if (!isFrame && isLong && bytes[start] === SOM)
    fail('osdp-damaged', 'This begins as an OSDP frame, but its head is none.', { column: start + 1 }, AS_HEX);
  if (!isFrame) return undefined;
  let at = start;
  const readings: Reading[] = [];
  const others: OsdpFrame[] = [];
  for (let count = 1; at < bytes.length; count++) {
    const length = bytes[at + 2]! | (bytes[at + 3]! << 8);
    if (bytes[at] !== SOM)
      fail(
        'osdp-tail',
        `Behind ${count === 2 ? 'the frame' : `${count - 1} frames`} ${bytes.length - at} bytes follow that are none.`,
        { column: at + 1 },
        'Copy whole frames, from 53 to the end of the check.',
      );
    if (bytes.length - at < LEAST_FRAME || length > bytes.length - at)
      fail(
        'osdp-cut',
        `The OSDP frame is cut: it says that it has ${Number.isNaN(length) ? 'more' : length} bytes, but ${bytes.length - at} are here.`,
        { column: bytes.length },
        'Copy it again, to its end.',
      );
    const frame = parsed(bytes, at, length);
    if (frame.isReply && frame.code === RAW) {
      const check = frame.check === 'crc' ? 'CRC' : 'checksum';
      const note = `From the device at address ${frame.address}, sequence ${frame.sequence}; the ${check} agrees.`;
      readings.push({ notation: 'osdp-raw', bits: bitsOfRawReply(frame), note });
    } else others.push(frame);
    at = marks(bytes, at + length);
  }
  if (readings.length === 0) bitsOfRawReply(others[0]!);
  return readings;
}

const AS_HEX = 'Copy it again; if it is no frame, write hex: in front.';

/** Past the marks between frames, all ones. */
function marks(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === 0xff) at++;
  return at;
}

function parsed(bytes: Uint8Array, at: number, length: number): OsdpFrame {
  try {
    return parseOsdpFrame(bytes.subarray(at, at + length));
  } catch (error) {
    const { code, message, where, hint } = failureOf(error);
    const column = (where?.column ?? 1) + at;
    return fail(code, message, { column }, hint ?? AS_HEX);
  }
}
