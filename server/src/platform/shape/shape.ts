/**
 * What a JSON text is measured by before anything is built from it. A text of 10 MB can hold millions of empty objects, or
 * brackets inside brackets; each costs far more to build and to check than to count.
 */

/** Brackets within brackets; nothing that Raw Bits takes has more than a dozen. */
export const DEEPEST = 32;

const [QUOTE, BACKSLASH, COMMA] = [0x22, 0x5c, 0x2c];
/** `[` and `{`, `]` and `}` differ in one bit, 0x20. */
const isOpen = (byte: number): boolean => (byte | 0x20) === 0x7b;
const isClose = (byte: number): boolean => (byte | 0x20) === 0x7d;

/**
 * What of a JSON text in UTF-8 is more than may be: `too-many` where a list or object has more than `entries` entries,
 * `too-deep` past `DEEPEST` levels. Grows with its bytes alone; what is no JSON is measured all the same.
 */
export function excessOf(bytes: Uint8Array, entries: number): 'too-many' | 'too-deep' | undefined {
  const counts = new Int32Array(DEEPEST + 1);
  let depth = 0;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i]!;
    if (byte === QUOTE) {
      for (i++; i < bytes.length && bytes[i] !== QUOTE; i++) if (bytes[i] === BACKSLASH) i++;
    } else if (byte === COMMA) {
      if (++counts[depth]! >= entries) return 'too-many';
    } else if (isOpen(byte)) {
      if (++depth > DEEPEST) return 'too-deep';
      counts[depth] = 0;
    } else if (isClose(byte)) depth = Math.max(0, depth - 1);
  }
  return undefined;
}

/** A JSON text as a value; undefined where it is none, or more than may be. */
export function measuredJson(text: string | Uint8Array, entries: number): unknown {
  const bytes = typeof text === 'string' ? Buffer.from(text, 'utf8') : text;
  if (excessOf(bytes, entries) !== undefined) return undefined;
  try {
    return JSON.parse(typeof text === 'string' ? text : Buffer.from(text).toString('utf8'));
  } catch {
    return undefined;
  }
}

/** Where in a value a text is no Unicode: half of a surrogate pair. Undefined where none is. */
export function illFormedIn(value: unknown, field: string): string | undefined {
  if (typeof value === 'string') return value.isWellFormed() ? undefined : field;
  if (typeof value !== 'object' || value === null) return undefined;
  for (const [key, item] of Object.entries(value)) {
    const found = illFormedIn(key, field) ?? illFormedIn(item, `${field}.${key}`);
    if (found !== undefined) return found;
  }
  return undefined;
}
