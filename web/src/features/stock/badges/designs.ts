/**
 * Badge designs as data: what stands where on the front of a card, in millimetres from its upper left corner. A card is
 * 85.60 by 53.98 mm with corners of 3.18 mm (ISO/IEC 7810, ID-1); nothing stands nearer than 3 mm to its edge, where
 * printers leave off.
 */
export interface Area {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A text in an area: as large as it fits, between two sizes, in at most so many lines. */
export interface TextArea extends Area {
  most: number;
  least: number;
  lines: number;
  at: 'left' | 'middle';
}

export interface Design {
  name: string;
  words: string;
  width: number;
  height: number;
  /** Null where it shows none. */
  photograph: Area | null;
  mark: Area;
  /** The band that tells the kind of its holder. */
  band: Area;
  kind: TextArea;
  holder: TextArea;
  organisation: TextArea;
  /** Where the number stands as bars and in figures, and where as squares and in figures. */
  barcode: { code: Area; number: TextArea };
  qr: { code: Area; number: TextArea };
}

export const CARD = { long: 85.6, short: 53.98, corner: 3.18 } as const;

const LENGTHWISE: Design = {
  ...{ name: 'lengthwise', words: 'Lengthwise, with photograph', width: CARD.long, height: CARD.short },
  photograph: { x: 4, y: 11, width: 25.5, height: 34 },
  mark: { x: 33, y: 11, width: 20, height: 8 },
  band: { x: 0, y: 0, width: CARD.long, height: 7.5 },
  kind: { x: 4, y: 1.6, width: 60, height: 4.5, most: 3.6, least: 2.2, lines: 1, at: 'left' },
  holder: { x: 33, y: 20, width: 48.6, height: 11, most: 5.2, least: 2.8, lines: 2, at: 'left' },
  organisation: { x: 33, y: 31.5, width: 48.6, height: 6.5, most: 2.9, least: 2, lines: 2, at: 'left' },
  barcode: {
    code: { x: 33, y: 39, width: 48.6, height: 8 },
    number: { x: 33, y: 47.6, width: 48.6, height: 3.2, most: 2.8, least: 1.8, lines: 1, at: 'middle' },
  },
  qr: {
    code: { x: 68.6, y: 38, width: 13, height: 13 },
    number: { x: 33, y: 46.6, width: 34, height: 3.8, most: 3.2, least: 1.8, lines: 1, at: 'left' },
  },
};

const UPRIGHT: Design = {
  ...{ name: 'upright', words: 'Upright, with photograph', width: CARD.short, height: CARD.long },
  photograph: { x: 14.5, y: 17, width: 25, height: 33.33 },
  mark: { x: 14, y: 8.6, width: 26, height: 7.4 },
  band: { x: 0, y: 0, width: CARD.short, height: 7.2 },
  kind: { x: 4, y: 1.5, width: 45.98, height: 4.4, most: 3.6, least: 2.2, lines: 1, at: 'middle' },
  holder: { x: 4, y: 51.5, width: 45.98, height: 10.4, most: 4.8, least: 2.6, lines: 2, at: 'middle' },
  organisation: { x: 4, y: 62.2, width: 45.98, height: 6, most: 2.8, least: 2, lines: 2, at: 'middle' },
  barcode: {
    code: { x: 4, y: 69, width: 45.98, height: 9 },
    number: { x: 4, y: 78.8, width: 45.98, height: 3.2, most: 2.8, least: 1.8, lines: 1, at: 'middle' },
  },
  qr: {
    code: { x: 21.5, y: 68.2, width: 11, height: 11 },
    number: { x: 4, y: 79.4, width: 45.98, height: 3.2, most: 2.8, least: 1.8, lines: 1, at: 'middle' },
  },
};

const PLAIN: Design = {
  ...{ name: 'plain', words: 'Plain, for guests', width: CARD.long, height: CARD.short },
  photograph: null,
  mark: { x: 4, y: 10, width: 30, height: 9 },
  band: { x: 0, y: 0, width: CARD.long, height: 7.5 },
  kind: { x: 4, y: 1.6, width: 77.6, height: 4.5, most: 3.6, least: 2.2, lines: 1, at: 'left' },
  holder: { x: 4, y: 20, width: 77.6, height: 12.5, most: 7.4, least: 3.2, lines: 2, at: 'left' },
  organisation: { x: 4, y: 32.8, width: 48, height: 6.2, most: 2.9, least: 2, lines: 2, at: 'left' },
  barcode: {
    code: { x: 33, y: 39.4, width: 48.6, height: 7.6 },
    number: { x: 33, y: 47.6, width: 48.6, height: 3.2, most: 2.8, least: 1.8, lines: 1, at: 'middle' },
  },
  qr: {
    code: { x: 64.6, y: 33.4, width: 17, height: 17 },
    number: { x: 4, y: 46.6, width: 58, height: 3.8, most: 3.2, least: 1.8, lines: 1, at: 'left' },
  },
};

export const DESIGNS: readonly Design[] = [LENGTHWISE, UPRIGHT, PLAIN];
