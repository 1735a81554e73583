/** Badges: text within its area, codes that an independent reader reads, pages in the size of a card, and nothing left out unsaid. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { BinaryBitmap, Code128Reader, HybridBinarizer, QRCodeReader, RGBLuminanceSource } from '@zxing/library';
import bwip from 'bwip-js/node';
import opentype from 'opentype.js';
import { PDFDocument } from 'pdf-lib';
import { describe, expect, it } from 'vitest';
import { badgeOf, type Content, type Lettering, numberOn, type Sheet, within } from './badge.ts';
import { type Encoder, modulesOf, placed } from './codes.ts';
import { CARD, DESIGNS } from './designs.ts';
import { type Face, fitted, missingIn, widthOf } from './lettering.ts';
import { pdfOf, placesOn } from './pdf.ts';
import { svgOf } from './svg.ts';

const require = createRequire(import.meta.url);
const face = (family: 'next' | 'mono', weight: number): Face => ({
  fonts: ['latin', 'latin-ext'].map((set) => {
    const folder = join(require.resolve(`@fontsource/atkinson-hyperlegible-${family}/package.json`), '../files');
    const { buffer } = new Uint8Array(
      readFileSync(join(folder, `atkinson-hyperlegible-${family}-${set}-${weight}-normal.woff`)),
    );
    return opentype.parse(buffer);
  }),
});
const encode = bwip.raw as Encoder;
const LETTERING: Lettering = { plain: face('next', 400), bold: face('next', 700), mono: face('mono', 400), encode };
const [lengthwise, upright, plain] = DESIGNS as [(typeof DESIGNS)[0], (typeof DESIGNS)[0], (typeof DESIGNS)[0]];
const PIXEL = {
  type: 'image/png' as const,
  data: 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  ...{ width: 1, height: 1 },
};
const content = (name: string, number: string, printed = ''): Content => ({
  holder: { id: 'h', name, department: 'Wet labs', organisation: '', kind: 'staff', hasPhotograph: false },
  card: { id: 'c', facility: '58', number, printed, state: 'active', validTo: null },
});
const GUESTS = { department: 'Visiting scientists', organisation: 'Institute of Cold Waters' };
const wanted = (design = lengthwise, code: 'barcode' | 'qr' | 'none' = 'barcode') => ({
  ...{ design, code, numberOf: 'number' as const, site: 'Skerry Point' },
});

/** The dark parts of a path of bars, as a reader would see them at two dots of the paper to one of the printer. */
function seen(path: string, { x, y, width, height }: { x: number; y: number; width: number; height: number }) {
  const [dots, quiet] = [600 / 25.4, 5];
  const [w, h] = [Math.ceil((width + 2 * quiet) * dots), Math.ceil((height + 2 * quiet) * dots)];
  const light = new Uint8ClampedArray(w * h).fill(255);
  for (const [, bx, by, bw, bh] of path.matchAll(/M([\d.]+) ([\d.]+)h([\d.]+)v([\d.]+)h-[\d.]+z/g)) {
    const [left, top] = [Number(bx) - x + quiet, Number(by) - y + quiet];
    for (let row = Math.round(top * dots); row < Math.round((top + Number(bh)) * dots); row++)
      light.fill(0, row * w + Math.round(left * dots), row * w + Math.round((left + Number(bw)) * dots));
  }
  return new BinaryBitmap(new HybridBinarizer(new RGBLuminanceSource(light, w, h)));
}

describe('codes', () => {
  it.each([
    ['118406', 'barcode'],
    ['0004662090', 'barcode'],
    ['58/10861', 'barcode'],
    ['58/10861', 'qr'],
    ['1234567890123456789012345678901234567890', 'qr'],
  ] as const)('%s as %s is read by an independent reader', (text, kind) => {
    const at = placed(modulesOf(encode, kind, text), { x: 3, y: 4, width: 48.6, height: kind === 'qr' ? 20 : 8 })!;
    const reader = kind === 'qr' ? new QRCodeReader() : new Code128Reader();
    expect(reader.decode(seen(at.path, at.area)).getText()).toBe(text);
    // Whole dots of a printer of 300 an inch.
    expect((at.moduleMm / 25.4) * 300).toBeCloseTo(Math.round((at.moduleMm / 25.4) * 300), 9);
  });

  it('keep their quiet zones, and are not drawn where their bars would be too narrow', () => {
    const area = { x: 0, y: 0, width: 46, height: 8 };
    const at = placed(modulesOf(encode, 'barcode', '0004662090'), area)!;
    expect(at.area.x).toBeGreaterThanOrEqual(10 * at.moduleMm);
    expect(area.width - at.area.x - at.area.width).toBeGreaterThanOrEqual(10 * at.moduleMm - 1e-9);
    expect(placed(modulesOf(encode, 'barcode', '1'.repeat(40)), area)).toBeUndefined();
  });
});

describe('lettering', () => {
  it('stands within its area as large as it fits, and is cut only where it fits in no size', () => {
    for (const text of ['Åse Vik', 'Bartholomeus Ingebrigtsen-Nordskjold', 'Ø'.repeat(70), 'a b c d e f g']) {
      const area = lengthwise.holder;
      const { size, lines, isCut } = fitted(LETTERING.bold, text, area);
      expect(Math.max(...lines.map((line) => widthOf(LETTERING.bold, line, size)))).toBeLessThanOrEqual(area.width);
      expect(lines.length * size).toBeLessThanOrEqual(area.height);
      expect([text, isCut]).toEqual([text, text.startsWith('Ø')]);
      if (!isCut) expect(lines.join(' ')).toBe(text);
    }
    expect(fitted(LETTERING.bold, 'Åse Vik', lengthwise.holder).size).toBe(lengthwise.holder.most);
  });

  it('takes letters from the file that has them, and names those that none has', () => {
    expect(missingIn(LETTERING.plain, 'Łukasz Ğ Øst')).toEqual([]);
    expect(missingIn(LETTERING.plain, 'Жан 李')).toEqual(['Ж', 'а', 'н', '李']);
    expect(badgeOf(content('Жан', '1'), wanted(), LETTERING).short).toEqual(['the lettering has no Ж а н']);
  });
});

describe('a badge', () => {
  it('has everything within the card, in every design', () => {
    for (const design of DESIGNS)
      for (const code of ['barcode', 'qr'] as const) {
        const sheet = badgeOf(
          {
            ...content('Bartholomeus Ingebrigtsen-Nordskjold', '118406'),
            holder: { ...content('Bartholomeus Ingebrigtsen-Nordskjold', '').holder, ...GUESTS },
            ...{ photograph: PIXEL, mark: PIXEL },
          },
          wanted(design, code),
          LETTERING,
        );
        expect([design.name, sheet.short]).toEqual([design.name, []]);
        const paths = sheet.shapes.flatMap((shape) => (shape.is === 'path' ? [shape.path] : []));
        expect(paths.length).toBeGreaterThanOrEqual(4);
        for (const path of paths) expect(path.replace(/[MLQCZhvz]|-?\d+(\.\d+)? ?/g, '')).toBe('');
        for (const { area } of sheet.shapes.flatMap((shape) => (shape.is === 'path' ? [] : [shape]))) {
          expect(area.x + area.width).toBeLessThanOrEqual(sheet.width + 1e-9);
          expect(area.y + area.height).toBeLessThanOrEqual(sheet.height + 1e-9);
        }
        expect([sheet.width, sheet.height].sort()).toEqual([CARD.short, CARD.long]);
      }
  });

  it('has no part over another, and none but its band nearer than 3 mm to the edge', () => {
    for (const { width, height, photograph, mark, band, holder, organisation, barcode, qr } of DESIGNS)
      for (const { code, number } of [barcode, qr]) {
        const parts = [mark, holder, organisation, code, number, ...(photograph ? [photograph] : [])];
        for (const [i, a] of parts.entries()) {
          expect(a.x >= 3 && a.y >= band.height && a.x + a.width <= width - 3 && a.y + a.height <= height - 2.8).toBe(
            true,
          );
          for (const b of parts.slice(0, i)) {
            const apart =
              a.x >= b.x + b.width || b.x >= a.x + a.width || a.y >= b.y + b.height || b.y >= a.y + a.height;
            expect([a, b, apart]).toEqual([a, b, true]);
          }
        }
      }
  });

  it('says what it could not draw: a number too long for its code, a name that was cut, no card', () => {
    const long = badgeOf(content('Åse Vik', '9'.repeat(60)), wanted(upright), LETTERING);
    expect(long.short).toContain(`${'9'.repeat(60)} is too long for a barcode of this size`);
    const none = badgeOf({ ...content('Åse Vik', ''), card: undefined }, wanted(plain), LETTERING);
    expect(none.short).toEqual(['holds no card, so there is no number']);
    expect(badgeOf(content('W'.repeat(80), '1'), wanted(), LETTERING).short[0]).toContain('is cut');
  });

  it('bears the print where there is one, or the number, or code and number', () => {
    const { card } = content('', '4021', '0004021');
    expect((['printed', 'number', 'both'] as const).map((of) => numberOn(card, of))).toEqual([
      '0004021',
      '4021',
      '58/4021',
    ]);
    expect(numberOn({ ...card!, printed: '' }, 'printed')).toBe('4021');
  });

  it('keeps the proportions of pictures', () => {
    expect(within({ width: 400, height: 100 }, { x: 10, y: 10, width: 20, height: 10 }, 'middle')).toEqual({
      ...{ x: 10, y: 12.5, width: 20, height: 5 },
    });
  });
});

describe('as files', () => {
  const sheets = (count: number, design = lengthwise): Sheet[] =>
    Array.from({ length: count }, (_, i) =>
      badgeOf({ ...content(`Guest ${i}`, String(i)), photograph: PIXEL }, wanted(design), LETTERING),
    );

  it('SVG is whole in itself: no fonts, no addresses, nothing of a name taken for markup', () => {
    const svg = svgOf(badgeOf(content('A<b>&"c"', '1'), wanted(), LETTERING));
    expect(svg).toContain('<title>A&lt;b&gt;&amp;&quot;c&quot;, 1</title>');
    expect(svg).not.toMatch(/<text|font-family|<script|href="http/);
    expect(new RegExp(`width="${CARD.long}mm" height="${CARD.short}mm"`).test(svg)).toBe(true);
  });

  it('PDF has a page of the size of a card for each, or A4 sheets of ten, or of nine upright', async () => {
    const cards = await PDFDocument.load(await pdfOf(sheets(3), 'card', 'Badges'));
    expect(cards.getPages().map((page) => Object.values(page.getSize()).map((points) => (points / 72) * 25.4))).toEqual(
      Array.from({ length: 3 }, () => [expect.closeTo(CARD.long, 6), expect.closeTo(CARD.short, 6)]),
    );
    expect((await PDFDocument.load(await pdfOf(sheets(11), 'A4', 'Badges'))).getPageCount()).toBe(2);
    expect((await PDFDocument.load(await pdfOf(sheets(9, upright), 'A4', 'Badges'))).getPageCount()).toBe(1);
  });

  it('on a sheet they neither overlap nor leave the paper', () => {
    for (const size of DESIGNS) {
      const places = placesOn(23, size);
      for (const [i, a] of places.entries()) {
        expect(a.x >= 0 && a.y >= 0 && a.x + size.width <= 210 && a.y + size.height <= 297).toBe(true);
        for (const b of places.slice(0, i))
          expect(
            a.page !== b.page || Math.abs(a.x - b.x) >= size.width - 1e-9 || Math.abs(a.y - b.y) >= size.height - 1e-9,
          ).toBe(true);
      }
    }
  });
});
