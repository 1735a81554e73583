/** A badge laid out: outlines, pictures and areas in millimetres, which SVG and PDF both draw. */
import type { Badge } from '@rawbits/api';
import { type CodeKind, type Encoder, modulesOf, placed } from './codes.ts';
import type { Area, Design, TextArea } from './designs.ts';
import { type Face, fitted, missingIn, outlined } from './lettering.ts';

export interface Picture {
  type: 'image/jpeg' | 'image/png';
  /** Base64. */
  data: string;
  /** In pixels. */
  width: number;
  height: number;
}

export type Ink = 'ink' | 'band' | 'paper';
export type Shape =
  | { is: 'path'; path: string; ink: Ink }
  | { is: 'area'; area: Area; ink: Ink }
  | { is: 'picture'; area: Area; picture: Picture };

export interface Sheet {
  width: number;
  height: number;
  shapes: Shape[];
  /** What a screen reader says of it, and what somebody who looks for it finds. */
  title: string;
  /** What could not be drawn as it was meant. */
  short: string[];
}

/** Which number stands on it. */
export type NumberOf = 'printed' | 'number' | 'both';

export interface Wanted {
  design: Design;
  code: CodeKind;
  numberOf: NumberOf;
  /** The site, for those without an organisation. */
  site: string;
}

export interface Lettering {
  plain: Face;
  bold: Face;
  mono: Face;
  encode: Encoder;
}

export interface Content {
  holder: Badge['holder'];
  /** The card whose number stands on it; undefined for none. */
  card: Badge['cards'][number] | undefined;
  photograph?: Picture | undefined;
  mark?: Picture | undefined;
}

/** The number as it stands on a badge; empty where there is no card. */
export function numberOn(card: Content['card'], numberOf: NumberOf): string {
  if (!card) return '';
  const read = card.facility === null ? card.number : `${card.facility}/${card.number}`;
  if (numberOf === 'number') return card.number;
  return numberOf === 'both' ? read : card.printed || card.number;
}

/** The whole of a picture in an area, its proportions kept. */
export function within({ width, height }: { width: number; height: number }, area: Area, at: 'left' | 'middle'): Area {
  const scale = Math.min(area.width / width, area.height / height);
  const [w, h] = [width * scale, height * scale];
  return {
    x: area.x + (at === 'middle' ? (area.width - w) / 2 : 0),
    y: area.y + (area.height - h) / 2,
    width: w,
    height: h,
  };
}

const initials = (name: string): string =>
  name
    .split(/\s+/)
    .flatMap((word) => [...word][0] ?? [])
    .slice(0, 2)
    .join('')
    .toLocaleUpperCase();

export function badgeOf(content: Content, { design, code, numberOf, site }: Wanted, lettering: Lettering): Sheet {
  const { holder, card, photograph, mark } = content;
  const shapes: Shape[] = [{ is: 'area', area: { x: 0, y: 0, ...sizeOf(design) }, ink: 'paper' }];
  const short: string[] = [];
  const write = (text: string, area: TextArea, face: Face, ink: Ink = 'ink') => {
    if (text.trim() === '') return;
    const missing = missingIn(face, text);
    if (missing.length > 0) short.push(`the lettering has no ${missing.join(' ')}`);
    const fit = fitted(face, text, area);
    if (fit.isCut) short.push(`“${text}” is cut`);
    shapes.push({ is: 'path', path: outlined(face, fit, area), ink });
  };
  shapes.push({ is: 'area', area: design.band, ink: 'band' });
  write(holder.kind.toLocaleUpperCase(), design.kind, lettering.bold, 'paper');
  if (design.photograph) {
    if (photograph)
      shapes.push({ is: 'picture', area: within(photograph, design.photograph, 'middle'), picture: photograph });
    else drawInitials(design.photograph, initials(holder.name), shapes, lettering.plain);
  }
  const upright = design.width < design.height;
  if (mark) shapes.push({ is: 'picture', area: within(mark, design.mark, upright ? 'middle' : 'left'), picture: mark });
  write(holder.name, design.holder, lettering.bold);
  write(
    [holder.department, holder.organisation || site].filter(Boolean).join(', '),
    design.organisation,
    lettering.plain,
  );
  const number = numberOn(card, numberOf);
  if (number !== '') {
    const where = code === 'qr' ? design.qr : design.barcode;
    write(number, where.number, lettering.mono);
    if (code !== 'none') {
      const at = placed(modulesOf(lettering.encode, code, number), where.code);
      if (at) shapes.push({ is: 'path', path: at.path, ink: 'ink' });
      else short.push(`${number} is too long for a ${code === 'qr' ? 'QR code' : 'barcode'} of this size`);
    }
  } else if (code !== 'none') short.push('holds no card, so there is no number');
  return { ...sizeOf(design), shapes, title: [holder.name, number].filter(Boolean).join(', '), short };
}

const sizeOf = ({ width, height }: Design) => ({ width, height });

function drawInitials(frame: Area, letters: string, shapes: Shape[], face: Face): void {
  const line = 0.25;
  const edge = (x: number, y: number, width: number, height: number) =>
    shapes.push({ is: 'area', area: { x, y, width, height }, ink: 'ink' });
  edge(frame.x, frame.y, frame.width, line);
  edge(frame.x, frame.y + frame.height - line, frame.width, line);
  edge(frame.x, frame.y, line, frame.height);
  edge(frame.x + frame.width - line, frame.y, line, frame.height);
  const area: TextArea = { ...frame, most: 11, least: 5, lines: 1, at: 'middle' };
  if (letters !== '') shapes.push({ is: 'path', path: outlined(face, fitted(face, letters, area), area), ink: 'ink' });
}
