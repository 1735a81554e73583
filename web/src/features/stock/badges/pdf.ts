/** Badges as PDF: one a page in the size of a card, or as many as go on an A4 sheet with marks to cut along. */
import type { PDFDocument, PDFImage, PDFPage } from 'pdf-lib';
import type { Picture, Sheet } from './badge.ts';
import { INKS } from './svg.ts';

export type Paper = 'card' | 'A4';

const POINT = 72 / 25.4;
const A4 = { width: 210, height: 297 };
const MARK_MM = 4;

export interface Place {
  page: number;
  x: number;
  y: number;
}

/** Where badges of one size stand on A4 sheets, side by side from the upper left, the whole in the middle. */
export function placesOn(count: number, { width, height }: { width: number; height: number }): Place[] {
  const [across, down] = [Math.floor(A4.width / width), Math.floor((A4.height - 2 * MARK_MM) / height)];
  const [left, top] = [(A4.width - across * width) / 2, (A4.height - down * height) / 2];
  return Array.from({ length: count }, (_, i) => {
    const [page, here] = [Math.floor(i / (across * down)), i % (across * down)];
    return { page, x: left + (here % across) * width, y: top + Math.floor(here / across) * height };
  });
}

const part = (hex: string, at: number): number => Number.parseInt(hex.slice(at, at + 2), 16) / 255;

/** All of one design. Loads the PDF library only now. */
export async function pdfOf(sheets: readonly Sheet[], paper: Paper, title: string): Promise<Uint8Array> {
  const { PDFDocument: Document, rgb } = await import('pdf-lib');
  const document = await Document.create();
  document.setTitle(title);
  document.setCreator('Raw Bits');
  const inks = Object.fromEntries(
    Object.entries(INKS).map(([name, hex]) => [name, rgb(part(hex, 1), part(hex, 3), part(hex, 5))]),
  ) as Record<keyof typeof INKS, ReturnType<typeof rgb>>;
  const pictures = new Map<string, PDFImage>();
  const places = paper === 'A4' ? placesOn(sheets.length, sheets[0]!) : sheets.map((_, page) => ({ page, x: 0, y: 0 }));
  for (const [i, sheet] of sheets.entries()) {
    const place = places[i]!;
    const size = paper === 'A4' ? A4 : sheet;
    const page =
      document.getPageCount() > place.page
        ? document.getPage(place.page)
        : document.addPage([size.width * POINT, size.height * POINT]);
    // PDF counts up from the lower left corner.
    const up = (y: number) => (size.height - place.y - y) * POINT;
    for (const shape of sheet.shapes) {
      if (shape.is === 'path') {
        page.drawSvgPath(shape.path, { x: place.x * POINT, y: up(0), scale: POINT, color: inks[shape.ink] });
        continue;
      }
      const { x, y, width, height } = shape.area;
      const box = { x: (place.x + x) * POINT, y: up(y + height), width: width * POINT, height: height * POINT };
      if (shape.is === 'area') page.drawRectangle({ ...box, color: inks[shape.ink] });
      else page.drawImage(await embedded(document, pictures, shape.picture), box);
    }
    if (paper === 'A4') cutMarks(page, place, sheet, inks.ink);
  }
  return document.save();
}

async function embedded(
  document: PDFDocument,
  known: Map<string, PDFImage>,
  { type, data }: Picture,
): Promise<PDFImage> {
  const image = known.get(data) ?? (await (type === 'image/png' ? document.embedPng(data) : document.embedJpg(data)));
  known.set(data, image);
  return image;
}

/** Short lines at the edges of the paper, in line with the edges of the badge. */
function cutMarks(page: PDFPage, { x, y }: Place, { width, height }: Sheet, color: never | object): void {
  const line = (x1: number, y1: number, x2: number, y2: number) =>
    page.drawLine({
      start: { x: x1 * POINT, y: (A4.height - y1) * POINT },
      end: { x: x2 * POINT, y: (A4.height - y2) * POINT },
      thickness: 0.3,
      color: color as never,
    });
  for (const at of [x, x + width]) {
    line(at, 0, at, MARK_MM);
    line(at, A4.height - MARK_MM, at, A4.height);
  }
  for (const at of [y, y + height]) {
    line(0, at, MARK_MM, at);
    line(A4.width - MARK_MM, at, A4.width, at);
  }
}
