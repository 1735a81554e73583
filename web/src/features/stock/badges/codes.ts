/**
 * A number as bars or squares, drawn so that a card printer of 300 dots an inch makes each of them a whole number of dots.
 * Quiet zones are kept: ten modules beside a Code 128 (ISO/IEC 15417), four around a QR code (ISO/IEC 18004).
 */
import type { Area } from './designs.ts';

export type CodeKind = 'barcode' | 'qr' | 'none';

/** Which modules are dark, row by row: one row for bars. */
export interface Modules {
  kind: 'barcode' | 'qr';
  width: number;
  rows: boolean[][];
}

const DOT_MM = 25.4 / 300;
const QUIET = { barcode: 10, qr: 4 } as const;
/** Narrower bars, in dots, are not read for sure by hand scanners (common practice, no source). */
const FEWEST_DOTS = { barcode: 3, qr: 3 } as const;
const MOST_DOTS = { barcode: 6, qr: 12 } as const;

export interface Placed {
  /** Dark parts as the data of an SVG path, in millimetres. */
  path: string;
  moduleMm: number;
  area: Area;
}

/** The modules as large as they fit into an area, quiet zones included; undefined where they do not fit. */
export function placed({ kind, width, rows }: Modules, area: Area): Placed | undefined {
  const across = width + 2 * QUIET[kind];
  const down = kind === 'qr' ? rows.length + 2 * QUIET.qr : 0;
  const room = Math.min(area.width / across, kind === 'qr' ? area.height / down : Number.POSITIVE_INFINITY);
  const dots = Math.min(MOST_DOTS[kind], Math.floor(room / DOT_MM + 1e-9));
  if (dots < FEWEST_DOTS[kind]) return undefined;
  const moduleMm = dots * DOT_MM;
  const left = area.x + (area.width - width * moduleMm) / 2;
  const top = kind === 'qr' ? area.y + (area.height - rows.length * moduleMm) / 2 : area.y;
  const rowHeight = kind === 'qr' ? moduleMm : area.height;
  const path: string[] = [];
  for (const [y, row] of rows.entries())
    for (let x = 0; x < row.length; x++) {
      if (!row[x]) continue;
      const from = x;
      while (row[x + 1]) x++;
      path.push(bar(left + from * moduleMm, top + y * rowHeight, (x - from + 1) * moduleMm, rowHeight));
    }
  return {
    path: path.join(''),
    moduleMm,
    area: { x: left, y: top, width: width * moduleMm, height: rows.length * rowHeight },
  };
}

const mm = (value: number): string => String(Math.round(value * 10_000) / 10_000);
const bar = (x: number, y: number, width: number, height: number): string =>
  `M${mm(x)} ${mm(y)}h${mm(width)}v${mm(height)}h${mm(-width)}z`;

/** What the barcode library makes of a text: widths of bars and spaces, or a field of squares. */
type Raw = { sbs?: number[] } | { pixs?: number[]; pixx?: number; pixy?: number };
export type Encoder = (symbology: string, text: string, options: object) => unknown[];

export function modulesOf(encode: Encoder, kind: 'barcode' | 'qr', text: string): Modules {
  const [made] = encode(kind === 'qr' ? 'qrcode' : 'code128', text, kind === 'qr' ? { eclevel: 'M' } : {}) as [Raw];
  if ('sbs' in made && made.sbs) {
    const row = made.sbs.flatMap((wide, i) => Array.from({ length: wide }, () => i % 2 === 0));
    return { kind, width: row.length, rows: [row] };
  }
  const { pixs = [], pixx = 0, pixy = 0 } = made as { pixs?: number[]; pixx?: number; pixy?: number };
  const rows = Array.from({ length: pixy }, (_, y) => pixs.slice(y * pixx, (y + 1) * pixx).map((dark) => dark === 1));
  return { kind, width: pixx, rows };
}
