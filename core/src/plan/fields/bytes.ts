/** The bytes of a file from its fields and what is known of a card, and back. */
import type { Bits } from '../../bits/index.ts';
import { crcOfBytes } from '../../check/index.ts';
import { bytesOf, hexOf, joined, sameBytes } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import { type Content, type Field, type Placed, placed } from './field.ts';

/** What is known of a card: texts and whole numbers by their names, days as `2026-11-26`, and the bits of its format. */
export interface Known {
  values: Readonly<Record<string, string>>;
  bits?: Bits;
  /** A key of the card under another; undefined where one of them is not at hand. */
  wrapped?(key: string, under: string): Uint8Array | undefined;
}

type Of<K extends Content['is']> = Extract<Content, { is: K }>;

/** UTF-8, by the one function of the language that has it. */
const utf8 = (text: string): Uint8Array =>
  Uint8Array.from(encodeURIComponent(text).match(/%[0-9A-F]{2}|./gs) ?? [], (part) =>
    part.length === 3 ? Number.parseInt(part.slice(1), 16) : part.charCodeAt(0),
  );

const fromUtf8 = (bytes: Uint8Array): string | undefined => {
  try {
    return decodeURIComponent([...bytes].map((byte) => `%${byte.toString(16).padStart(2, '0')}`).join(''));
  } catch {
    return undefined;
  }
};

/** The bytes of a file of `size`; what no field claims is zero. Throws a failure that names the field. */
export function bytesOfFields(fields: readonly Field[], size: number, known: Known): Uint8Array {
  const bytes = new Uint8Array(size);
  const done = new Map<string, Uint8Array>();
  for (const { field, from, to } of placed(fields)) {
    if (to > size) fail('over', `"${field.name}" ends past the file’s last byte.`, { field: field.name });
    const own = field.content.is === 'check' ? checkBytes(field, field.content, done) : made(field, known);
    bytes.set(own, from);
    done.set(field.name, own);
  }
  return bytes;
}

function knownOf(of: string, field: Field, { values }: Known): string {
  const value = Object.hasOwn(values, of) ? values[of] : undefined;
  if (value === undefined)
    return fail('unknown', `"${field.name}" takes "${of}", which is not known of this card.`, { field: field.name });
  return value;
}

const tooLong = (field: Field, what: string): never =>
  fail(
    'too-long',
    `"${field.name}" has room for ${field.length} bytes; ${what}.`,
    { field: field.name },
    'Make the field longer.',
  );

/** Set to the left or right of a field, the rest filled. */
function aligned(bytes: Uint8Array, length: number, align: 'left' | 'right', pad = 0): Uint8Array {
  const all = new Uint8Array(length).fill(pad);
  all.set(bytes, align === 'left' ? 0 : length - bytes.length);
  return all;
}

function made(field: Field, known: Known): Uint8Array {
  const { content, length } = field;
  switch (content.is) {
    case 'fixed': {
      const bytes = bytesOf(content.hex, field.name);
      return bytes.length > length
        ? tooLong(field, `there are ${bytes.length} fixed ones`)
        : aligned(bytes, length, 'left');
    }
    case 'text':
      return textBytes(field, content, knownOf(content.of, field, known));
    case 'number':
      return numberBytes(field, content, knownOf(content.of, field, known));
    case 'day':
      return dayBytes(field, content, knownOf(content.of, field, known));
    case 'wrapped': {
      const bytes = known.wrapped?.(content.key, content.under);
      if (!bytes)
        return fail(
          'unknown',
          `"${field.name}" is "${content.key}" under "${content.under}", and one of them is not at hand.`,
          {
            field: field.name,
          },
        );
      if (bytes.length !== length) return tooLong(field, `the wrapped key has ${bytes.length}`);
      return bytes;
    }
    case 'counter':
      return numberBytes(field, { is: 'number', of: '', as: 'binary', order: content.order }, String(content.from));
    case 'bits': {
      const { bits } = known;
      if (!bits)
        return fail('unknown', `"${field.name}" takes the card’s bits, which are not known.`, { field: field.name });
      if (bits.length > 8 * length) return tooLong(field, `${bits.length} bits need ${Math.ceil(bits.length / 8)}`);
      return bitBytes(bits, length, content.align);
    }
    default:
      return new Uint8Array(length);
  }
}

/** Bits from the first bit of the field on, or so that the last ends with it. */
function bitBytes(bits: Bits, length: number, align: 'left' | 'right'): Uint8Array {
  const binary = align === 'left' ? bits.toBinary().padEnd(8 * length, '0') : bits.toBinary().padStart(8 * length, '0');
  return Uint8Array.from({ length }, (_, i) => Number.parseInt(binary.slice(8 * i, 8 * i + 8), 2));
}

function textBytes(field: Field, { charset, align, pad }: Of<'text'>, text: string): Uint8Array {
  const odd = charset === 'ascii' ? [...text].find((letter) => letter.charCodeAt(0) > 0x7e || letter < ' ') : undefined;
  if (odd !== undefined)
    return fail(
      'charset',
      `"${field.name}" takes ASCII alone, and "${odd}" is none.`,
      { field: field.name },
      'Take UTF-8.',
    );
  const bytes = utf8(text);
  if (bytes.length > field.length) return tooLong(field, `"${text}" has ${bytes.length}`);
  return aligned(bytes, field.length, align, bytesOf(pad, 'pad', 1)[0]);
}

function wholeNumber(field: Field, text: string): bigint {
  if (!/^\d{1,200}$/.test(text))
    return fail('number', `"${field.name}" takes a whole number, not "${text}".`, { field: field.name });
  return BigInt(text);
}

function numberBytes(field: Field, { as, order }: Of<'number'>, text: string): Uint8Array {
  const value = wholeNumber(field, text);
  const digits = as === 'bcd' ? value.toString() : value.toString(16);
  if (digits.length > 2 * field.length) return tooLong(field, `${text} has more digits`);
  const bytes = bytesOf(digits.padStart(2 * field.length, '0'), field.name);
  return order === 'big' ? bytes : bytes.reverse();
}

function dayBytes(field: Field, { as }: Of<'day'>, text: string): Uint8Array {
  const [, year, month, day] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text) ?? [];
  if (!year || !isDay(Number(year), Number(month), Number(day)))
    return fail('day', `"${field.name}" takes a day such as 2026-11-26, not "${text}".`, { field: field.name });
  const digits = `${year}${month}${day}`;
  return as === 'bcd' ? bytesOf(digits, field.name) : utf8(digits);
}

const isDay = (year: number, month: number, day: number): boolean => {
  const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
  const days = [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  return month >= 1 && month <= 12 && day >= 1 && day <= days[month - 1]!;
};

function checkBytes(field: Field, content: Of<'check'>, done: ReadonlyMap<string, Uint8Array>): Uint8Array {
  const over = content.over.map(
    (name) =>
      done.get(name) ??
      fail('check-over', `"${field.name}" is over "${name}", which does not stand before it.`, { field: field.name }),
  );
  return checkOver(field, content, joined(...over));
}

function checkOver(
  { length }: Field,
  { poly, init, reflect, xorOut, order }: Of<'check'>,
  bytes: Uint8Array,
): Uint8Array {
  const number = (hex: string) => BigInt(`0x0${hex}`);
  const value = crcOfBytes(bytes, {
    width: 8 * length,
    poly: number(poly),
    init: number(init),
    reflectIn: reflect,
    reflectOut: reflect,
    xorOut: number(xorOut),
  });
  const big = bytesOf(value.toString(16).padStart(2 * length, '0'), 'check');
  return order === 'big' ? big : big.reverse();
}

/** A field as it was read: its text, and whether it is what it should be where that can be told. */
export interface ReadField {
  name: string;
  /** The value in words: a text, a decimal number, a day, bits; hex where it can be none of these. */
  value: string;
  /** Whether a fixed field or a check is right, and whether another can be read; true where nothing is against it. */
  holds: boolean;
}

/** What stands in the fields of a file. */
export function fieldsIn(fields: readonly Field[], bytes: Uint8Array): ReadField[] {
  const places = placed(fields);
  const of = ({ from, to }: Placed) => bytes.subarray(from, to);
  return places.map((place) => {
    const { field } = place;
    const own = of(place);
    if (own.length < field.length) return { name: field.name, value: hexOf(own), holds: false };
    if (field.content.is !== 'check') return { name: field.name, ...read(field, own) };
    const over = field.content.over.map((name) => places.find((other) => other.field.name === name));
    const whole = joined(...over.map((other) => (other ? of(other) : new Uint8Array(0))));
    return { name: field.name, value: hexOf(own), holds: sameBytes(own, checkOver(field, field.content, whole)) };
  });
}

function read({ content, length }: Field, bytes: Uint8Array): { value: string; holds: boolean } {
  const hex = hexOf(bytes);
  switch (content.is) {
    case 'fixed':
      return { value: hex, holds: hex === content.hex.padEnd(2 * length, '0') };
    case 'text': {
      const text = fromUtf8(unpadded(bytes, content));
      return { value: text ?? hex, holds: text !== undefined };
    }
    case 'wrapped':
      return { value: hex, holds: true };
    case 'counter':
    case 'number': {
      const big = hexOf(content.order === 'big' ? bytes : new Uint8Array(bytes).reverse());
      if (content.is === 'counter' || content.as === 'binary')
        return { value: BigInt(`0x${big}`).toString(), holds: true };
      return /^\d+$/.test(big) ? { value: BigInt(big).toString(), holds: true } : { value: hex, holds: false };
    }
    case 'day': {
      const digits = content.as === 'bcd' ? hex : (fromUtf8(bytes) ?? '');
      const day = `${digits.slice(0, 4)}-${digits.slice(4, 6)}-${digits.slice(6)}`;
      const holds =
        /^\d{8}$/.test(digits) &&
        isDay(Number(digits.slice(0, 4)), Number(digits.slice(4, 6)), Number(digits.slice(6)));
      return holds ? { value: day, holds } : { value: hex, holds };
    }
    default:
      return { value: [...bytes].map((byte) => byte.toString(2).padStart(8, '0')).join(''), holds: true };
  }
}

function unpadded(bytes: Uint8Array, { align, pad }: Of<'text'>): Uint8Array {
  const fill = bytesOf(pad, 'pad', 1)[0]!;
  if (align === 'left') {
    let end = bytes.length;
    while (end > 0 && bytes[end - 1] === fill) end--;
    return bytes.subarray(0, end);
  }
  const start = bytes.findIndex((byte) => byte !== fill);
  return start < 0 ? new Uint8Array(0) : bytes.subarray(start);
}
