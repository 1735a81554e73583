/**
 * Lettering as outlines: a badge looks alike wherever its file is opened, whatever fonts are there. Sizes are in
 * millimetres, outlines run down from the upper left corner as in SVG.
 */
import type { Font, PathCommand } from 'opentype.js';
import type { TextArea } from './designs.ts';

/** One weight of a typeface, the files that its letters are spread over. */
export interface Face {
  fonts: readonly Font[];
}

const LINE = 1.16;
const STEP_MM = 0.1;
const CUT = '…';

const fontFor = ({ fonts }: Face, letter: string): Font | undefined =>
  fonts.find((font) => font.charToGlyphIndex(letter) > 0);

/** The letters of a text that the face does not have: they cannot be printed. */
export const missingIn = (face: Face, text: string): string[] => [
  ...new Set([...text].filter((letter) => letter.trim() !== '' && !fontFor(face, letter))),
];

/** A text in pieces, each in the file that has its letters. */
function piecesOf(face: Face, text: string): { font: Font; text: string }[] {
  const pieces: { font: Font; text: string }[] = [];
  for (const letter of text) {
    const font = fontFor(face, letter) ?? face.fonts[0]!;
    const last = pieces.at(-1);
    if (last?.font === font) last.text += letter;
    else pieces.push({ font, text: letter });
  }
  return pieces;
}

export const widthOf = (face: Face, text: string, size: number): number =>
  piecesOf(face, text).reduce((sum, piece) => sum + piece.font.getAdvanceWidth(piece.text, size), 0);

/** The words of a text in as few lines as they fit. */
function wrapped(face: Face, text: string, size: number, width: number): string[] {
  const lines: string[] = [];
  for (const word of text.split(/\s+/)) {
    const longer = lines.length === 0 ? word : `${lines.at(-1)} ${word}`;
    if (lines.length > 0 && widthOf(face, longer, size) <= width) lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  return lines;
}

export interface Fitted {
  size: number;
  lines: string[];
  /** It did not fit even in the smallest size. */
  isCut: boolean;
}

/** As large as it fits its area; cut with … where it does not even in the smallest size. */
export function fitted(face: Face, text: string, { width, height, most, least, lines: many }: TextArea): Fitted {
  const whole = text.trim();
  for (let size = most; size >= least - 1e-9; size -= STEP_MM) {
    const lines = wrapped(face, whole, size, width);
    const fits = lines.length <= many && lines.length * size * LINE <= height + 1e-9;
    if (fits && lines.every((line) => widthOf(face, line, size) <= width)) return { size, lines, isCut: false };
  }
  const room = Math.max(1, Math.min(many, Math.floor(height / (least * LINE) + 1e-9)));
  const lines = wrapped(face, whole, least, width);
  const last = lines.slice(room - 1).join(' ');
  return {
    size: least,
    lines: [...lines.slice(0, room - 1), last].map((line) => cut(face, line, least, width)),
    isCut: true,
  };
}

function cut(face: Face, line: string, size: number, width: number): string {
  if (widthOf(face, line, size) <= width) return line;
  const letters = [...line];
  while (letters.length > 0 && widthOf(face, letters.join('').trimEnd() + CUT, size) > width) letters.pop();
  return letters.join('').trimEnd() + CUT;
}

const mm = (value: number): string => String(Math.round(value * 1000) / 1000);

/** A step of an outline as SVG has it, in thousandths of a millimetre. */
function drawn(step: PathCommand): string {
  switch (step.type) {
    case 'Z':
      return 'Z';
    case 'C':
      return `C${[step.x1, step.y1, step.x2, step.y2, step.x, step.y].map(mm).join(' ')}`;
    case 'Q':
      return `Q${[step.x1, step.y1, step.x, step.y].map(mm).join(' ')}`;
    default:
      return `${step.type}${mm(step.x)} ${mm(step.y)}`;
  }
}

/** The outlines of a text in its area, as the data of an SVG path. */
export function outlined(face: Face, { size, lines }: Fitted, area: TextArea): string {
  const path: string[] = [];
  const top = area.y + Math.max(0, (area.height - lines.length * size * LINE) / 2);
  for (const [i, line] of lines.entries()) {
    const spare = area.width - widthOf(face, line, size);
    let x = area.x + (area.at === 'middle' ? spare / 2 : 0);
    const baseline = top + (i + 1) * size * LINE - size * 0.28;
    for (const piece of piecesOf(face, line)) {
      path.push(...piece.font.getPath(piece.text, x, baseline, size).commands.map(drawn));
      x += piece.font.getAdvanceWidth(piece.text, size);
    }
  }
  return path.join('');
}
