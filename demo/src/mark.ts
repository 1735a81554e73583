/** The mark of Skerry Point, drawn: a beacon on its rock above two waves. A PNG (RFC 2083) of our own making. */
import { deflateSync } from 'node:zlib';
import { type CrcParameters, crcOfBytes } from '@rawbits/core/check';

const [WIDTH, HEIGHT, FINE] = [240, 120, 4];

/** The check of a chunk (RFC 2083 §3.4). */
const CRC_32: CrcParameters = {
  width: 32,
  poly: 0x04c11db7n,
  init: 0xffffffffn,
  reflectIn: true,
  reflectOut: true,
  xorOut: 0xffffffffn,
};

/** Whether ink is at a place, both 0 … 1 of the height. */
function isInk(x: number, y: number): boolean {
  const wave = (level: number, shift: number) =>
    Math.abs(y - level - 0.03 * Math.sin((x + shift) * 9)) < 0.022 && x > 0.08 && x < 1.92;
  if (wave(0.84, 0) || wave(0.94, 0.35)) return true;
  const rock = y < 0.78 && y > 0.78 - 0.2 * Math.sqrt(Math.max(0, 1 - ((x - 1) / 0.62) ** 2));
  const half = 0.075 + (y - 0.2) * 0.09;
  const tower = y > 0.2 && y < 0.62 && Math.abs(x - 1) < half && Math.floor((y - 0.2) / 0.085) % 2 === 0;
  const lantern = y > 0.1 && y < 0.18 && Math.abs(x - 1) < 0.06;
  const beam = y > 0.06 && y < 0.22 && Math.abs(x - 1) > 0.16 && Math.abs(y - 0.14) < (Math.abs(x - 1) - 0.1) * 0.12;
  return rock || tower || lantern || (beam && Math.abs(x - 1) < 0.62);
}

const chunk = (type: string, data: Buffer): Buffer => {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const [length, check] = [Buffer.alloc(4), Buffer.alloc(4)];
  length.writeUInt32BE(data.length);
  check.writeUInt32BE(Number(crcOfBytes(body, CRC_32)));
  return Buffer.concat([length, body, check]);
};

/** In base64. */
export function markOfTheStation(): string {
  // Grey with an alpha channel, 8 bits each; every row begins with its filter.
  const rows = Array.from({ length: HEIGHT }, (_, row) => {
    const line = Buffer.alloc(1 + 2 * WIDTH);
    for (let column = 0; column < WIDTH; column++) {
      let ink = 0;
      for (let i = 0; i < FINE * FINE; i++)
        if (isInk((column + (i % FINE) / FINE) / HEIGHT, (row + Math.floor(i / FINE) / FINE) / HEIGHT)) ink++;
      line.writeUInt8(30, 1 + 2 * column);
      line.writeUInt8(Math.round((255 * ink) / FINE ** 2), 2 + 2 * column);
    }
    return line;
  });
  const header = Buffer.alloc(13);
  header.writeUInt32BE(WIDTH, 0);
  header.writeUInt32BE(HEIGHT, 4);
  header.set([8, 4, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', header),
    chunk('IDAT', deflateSync(Buffer.concat(rows))),
    chunk('IEND', Buffer.alloc(0)),
  ]).toString('base64');
}
