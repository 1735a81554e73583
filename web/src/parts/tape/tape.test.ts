import { Bits } from '@rawbits/core/bits';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { decode, encode } from '@rawbits/core/codec';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitCells, layOutTape, packRows, runsOf, type TapeGeometry } from './geometry.ts';
import { drawingOf, tapeInWords } from './ofFormat.ts';
import { afterKey, boundsOf, counted } from './selection.ts';

const length = fc.integer({ min: 1, max: 512 });
const width = fc.integer({ min: 200, max: 1600 });

describe('cells', () => {
  it('lines are never broken inside a group, nothing overlaps, and nothing is wider than there is room', () => {
    fc.assert(
      fc.property(length, width, (n, w) => {
        const tape = layOutTape({ length: n, width: w, spans: [], threads: [] });
        tape.lines.forEach((line, i) => {
          expect((line.from - 1) % tape.group).toBe(0);
          expect(line.from).toBe(i === 0 ? 1 : tape.lines[i - 1]!.to + 1);
          for (let p = line.from; p < line.to; p++)
            expect(tape.xOf(p + 1) - tape.xOf(p)).toBeGreaterThanOrEqual(tape.cell.width);
          expect(tape.xOf(line.to) + tape.cell.width).toBeLessThanOrEqual(w);
          for (const p of [line.from, line.to])
            expect(tape.positionAt(tape.xOf(p) + tape.cell.width / 2, line.cellY + 3)).toBe(p);
        });
        expect(tape.lines.at(-1)!.to).toBe(n);
      }),
    );
  });

  it('37 bits stand on one line of 1,100 pixels, 512 on several', () => {
    expect(fitCells(37, 1100, 8).perLine).toBe(37);
    expect(fitCells(512, 1100, 8).perLine).toBeLessThan(512);
  });
});

describe('what is drawn around the cells', () => {
  const tapeOf = (id: string, w = 1100): TapeGeometry => {
    const format = catalogued(id)!;
    const drawing = drawingOf(format, undefined, (p) => p);
    return layOutTape({ length: format.bits, width: w, ...drawing });
  };
  const textBox = (x: number, size: number, anchor: 'start' | 'end') =>
    anchor === 'start' ? [x, x + size] : [x - size, x];

  it('labels never overlap and never leave the tape, for every format of the catalogue', () => {
    for (const { id } of CATALOGUE)
      for (const w of [620, 900, 1150]) {
        for (const { labels } of tapeOf(id, w).lines) {
          for (const a of labels) {
            const half = (a.name.length * 6) / 2;
            expect(a.x - half, `${id} ${a.name}`).toBeGreaterThanOrEqual(-1);
            expect(a.x + half, `${id} ${a.name}`).toBeLessThanOrEqual(w + 1);
            for (const b of labels)
              if (a !== b && a.y === b.y)
                expect(Math.abs(a.x - b.x)).toBeGreaterThan(((a.name.length + b.name.length) * 6) / 2);
          }
        }
      }
  });

  it('threads of one level do not touch, and all stay above the ruler', () => {
    for (const { id } of CATALOGUE) {
      for (const line of tapeOf(id).lines) {
        for (const a of line.threads) {
          expect(a.y).toBeLessThan(line.rulerY - 8);
          for (const b of line.threads) if (a !== b && a.y === b.y) expect(a.x2 < b.x1 || b.x2 < a.x1, id).toBe(true);
          if (a.text) {
            const [from, to] = textBox(a.text.x, a.text.text.length * 5, a.text.anchor);
            expect(from).toBeGreaterThanOrEqual(-1);
            expect(to).toBeLessThanOrEqual(1100);
          }
        }
      }
    }
  });

  it('a stepped coverage has a tick over each covered bit', () => {
    const piece = tapeOf('35-12-20').lines[0]!.threads.find((t) => t.threadId === 'parity-1')!;
    expect(piece.ticks.length).toBe(22);
    expect(piece.rings.length).toBe(1);
  });

  it('runs and rows', () => {
    expect(runsOf([5, 1, 2, 3, 9])).toEqual([
      [1, 3],
      [5, 5],
      [9, 9],
    ]);
    expect(
      packRows(
        [
          { x1: 0, x2: 10 },
          { x1: 5, x2: 20 },
          { x1: 14, x2: 30 },
        ],
        2,
      ),
    ).toEqual([0, 1, 0]);
  });

  it('a format whose bytes arrive reversed is drawn where its bits stand', () => {
    const format = catalogued('32r-0-32')!;
    const bits = encode(format, { number: String(0x04a23b1c) });
    const { spans } = drawingOf(format, decode(bits, format), (p) => p);
    expect(spans[0]!.positions.slice(0, 8)).toEqual([25, 26, 27, 28, 29, 30, 31, 32]);
    expect(Bits.build(32, (p) => bits.at(spans[0]!.positions[p - 1]!)).toHex()).toBe('04A23B1C');
  });

  it('a facility code that has a name is called by it', () => {
    const format = catalogued('26-8-16')!;
    const bits = encode(format, { facility: '71', number: '9034' });
    const { spans } = drawingOf(format, decode(bits, format), (p) => p, 'Wet labs');
    expect(spans.map(({ name, value }) => [name, value])).toContainEqual(['facility code, Wet labs', '71']);
  });

  it('says in words what it shows, a failed parity with it', () => {
    const format = catalogued('26-8-16')!;
    const bits = encode(format, { facility: '71', number: '9034' });
    const wrong = Bits.build(26, (p) => (bits.at(p) === 1) !== (p === 26));
    expect(
      tapeInWords(
        wrong.toBinary(),
        drawingOf(format, decode(wrong, format), (p) => p),
      ),
    ).toContain(
      'facility code 71 at 2 to 9. card number 9034 at 10 to 25. bit 1 even over 2-13 holds. bit 26 odd over 14-25 fails.',
    );
  });
});

describe('selecting by keyboard', () => {
  const at = (n: number) => ({ anchor: n, focus: n });
  it.each([
    [null, 'ArrowRight', false, at(1)],
    [null, 'ArrowLeft', false, at(37)],
    [at(5), 'ArrowRight', false, at(6)],
    [at(5), 'ArrowRight', true, { anchor: 5, focus: 6 }],
    [at(5), 'End', true, { anchor: 5, focus: 37 }],
    [at(5), 'Home', false, at(1)],
    [at(5), 'ArrowDown', false, at(21)],
    [at(37), 'ArrowRight', false, at(37)],
    [at(5), 'Escape', false, null],
    [null, 'Escape', false, undefined],
    [at(5), 'x', false, undefined],
  ])('%j %s shift=%s', (selection, key, shift, wanted) => {
    expect(afterKey(selection, key, shift, 37, 16)).toEqual(wanted);
  });

  it('bounds rise, and the ruler counts from either end', () => {
    expect(boundsOf({ anchor: 9, focus: 3 })).toEqual([3, 9]);
    expect([counted(1, 37, 'first'), counted(1, 37, 'last'), counted(37, 37, 'last')]).toEqual([1, 37, 1]);
  });
});
