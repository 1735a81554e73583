/** A file in pieces: every line once, in turn, whatever its size and wherever its bytes are cut. */
import { LINES_A_PIECE } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { headerOf, piecesOf, sendFile } from './siteFile.ts';

async function all(file: Blob) {
  const pieces = [];
  for await (const piece of piecesOf(file)) pieces.push(piece);
  return pieces;
}

describe('the file of a site', () => {
  it.each([0, 1, LINES_A_PIECE - 1, LINES_A_PIECE, LINES_A_PIECE + 1, 3 * LINES_A_PIECE + 7])('%i lines', async (n) => {
    const lines = Array.from({ length: n }, (_, i) => JSON.stringify({ i, name: 'Åse Östberg 🦭'.repeat(i % 50) }));
    const file = new Blob([`${lines.join('\n')}\n`]);
    const pieces = await all(file);
    expect(pieces.flatMap((piece) => piece.lines)).toEqual(lines);
    expect(pieces.map(({ piece }) => piece)).toEqual(pieces.map((_, i) => i + 1));
    expect(Math.max(0, ...pieces.map((piece) => piece.lines.length))).toBeLessThanOrEqual(LINES_A_PIECE);
    if (n > 0) expect(pieces.at(-1)!.read).toBe(file.size);
  });

  it('long lines go in pieces that the server takes', async () => {
    const line = 'x'.repeat(900_000);
    expect((await all(new Blob([[line, line, line, line, line].join('\n')]))).map((p) => p.lines.length)).toEqual([
      2, 2, 1,
    ]);
  });

  it('tells what the site is called, and of anything else nothing', async () => {
    const line = '{"kind":"site","name":"Skerry Point","shortName":"Skerry"}';
    expect(await headerOf(new Blob([line, '\nrest']))).toEqual({ name: 'Skerry Point', shortName: 'Skerry' });
    for (const other of ['', '{', '{"kind":"end"}', 'number,name'])
      expect(await headerOf(new Blob([other]))).toBeUndefined();
    expect(await headerOf(new Blob([new Uint8Array([0xff, 0xfe, 10])]))).toBeUndefined();
  });

  it('what is refused on the way is given up, and told as it was refused', async () => {
    const asked: string[] = [];
    const refused = { message: 'Line 501: this is no JSON.' };
    const sending = {
      begin: async () => ({ id: 'i', pieces: 0, lines: 0 }),
      send: async (_id: string, { piece }: { piece: number }) => {
        asked.push(`piece ${piece}`);
        if (piece === 2) throw refused;
      },
      finish: async () => ({ site: 's', counts: {}, renamed: [] }),
      giveUp: async (id: string) => void asked.push(`give up ${id}`),
    };
    const file = new Blob([Array.from({ length: 3 * LINES_A_PIECE }, () => '{}').join('\n')]);
    await expect(sendFile(file, sending, () => {})).rejects.toBe(refused);
    expect(asked).toEqual(['piece 1', 'piece 2', 'give up i']);
  });
});
