/** A badge as SVG: a file of its own, in millimetres, with nothing outside it. */
import type { Ink, Sheet } from './badge.ts';
import { CARD } from './designs.ts';

export const INKS: Record<Ink, string> = { ink: '#000000', band: '#0b5d4e', paper: '#ffffff' };

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (letter) => ESCAPES[letter]!);

export function svgOf({ width, height, shapes, title }: Sheet): string {
  const drawn = shapes.map((shape) => {
    if (shape.is === 'path') return `<path d="${shape.path}" fill="${INKS[shape.ink]}"/>`;
    const { x, y, width: w, height: h } = shape.area;
    const place = `x="${x}" y="${y}" width="${w}" height="${h}"`;
    if (shape.is === 'area') return `<rect ${place} fill="${INKS[shape.ink]}"/>`;
    return `<image ${place} href="data:${shape.picture.type};base64,${shape.picture.data}"/>`;
  });
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="0 0 ${width} ${height}">`,
    `<title>${escaped(title)}</title>`,
    `<clipPath id="card"><rect width="${width}" height="${height}" rx="${CARD.corner}"/></clipPath>`,
    `<g clip-path="url(#card)">${drawn.join('')}</g>`,
    '</svg>',
  ].join('\n');
}
