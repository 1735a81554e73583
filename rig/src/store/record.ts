/**
 * Records of the rig's log: one line each, with its length and a checksum before it, so that one that was cut or
 * damaged is told from a whole one. `LENGTH CHECKSUM JSON`: the length in bytes of the JSON in decimal, its CRC-32
 * (ISO/IEC 3309, as zlib has it) in eight hex digits. Lines of older logs are bare JSON.
 */
import { crc32 } from 'node:zlib';

export function writeRecord(value: unknown): Buffer {
  const json = Buffer.from(JSON.stringify(value));
  return Buffer.concat([Buffer.from(`${json.length} ${checksum(json)} `), json, Buffer.from('\n')]);
}

/** The value of a line without its end, or undefined where it is not as it was written. */
export function readRecord(line: Buffer): unknown {
  const text = line.toString('latin1', 0, 24);
  const head = /^(\d{1,9}) ([0-9a-f]{8}) /.exec(text);
  const json = head ? line.subarray(head[0].length) : line;
  if (head && (json.length !== Number(head[1]) || checksum(json) !== head[2])) return undefined;
  try {
    return JSON.parse(json.toString('utf8'));
  } catch {
    return undefined;
  }
}

const checksum = (bytes: Buffer): string => crc32(bytes).toString(16).padStart(8, '0');
