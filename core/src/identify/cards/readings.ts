/** Ways to read a print as the number that stands in the bits, in order of how little they assume. */
import type { Specimen } from './specimen.ts';

export type ReadingKind =
  | 'as printed'
  | 'digits in BCD or hex'
  | 'facility and number joined in one decimal'
  | 'a constant added'
  | 'the last digits only'
  | 'a part of the UID';

export interface PrintReading {
  kind: ReadingKind;
  /** Which of the prints on the card, from 0. */
  print: number;
  /** The numbers of the specimens, in their order; undefined where this print is not on a card. */
  numbers: (bigint | undefined)[];
  /** Facility codes told by the prints themselves. */
  facilities: (bigint | undefined)[];
  /** The number of any other print, or undefined where it makes none. */
  numberOf(print: PrintValue): bigint | undefined;
  /** The constant, where one is added. */
  add?: bigint;
  /** Which bytes of a UID, where it is some of them. */
  bytes?: { from: 'first' | 'last'; count: number };
}

/** What a print stands for: as a number, and its facility code where it names one. */
export interface PrintValue {
  text: string;
  decimal: bigint | undefined;
  plain: bigint;
  facility: bigint | undefined;
}

const JOINED = 100_000n;

/** A print as the specimens' prints are taken: a pair by its number, decimal digits as a decimal, the rest as hex. */
export function printValue({ text, numbers }: Specimen['prints'][number]): PrintValue {
  const pair = numbers.find((n) => n.as === 'facility and number');
  if (pair) return { text, decimal: undefined, plain: pair.number!, facility: pair.facility };
  const decimal = numbers.find((n) => n.as === 'decimal');
  return { text, decimal: decimal?.value, plain: (decimal ?? numbers[0]!).value, facility: undefined };
}

/** Whole bytes in hex, as a UID of 4, 7 or 10 bytes is printed: ISO/IEC 14443-3 §6.5.4. */
function uidOf(text: string): { value: bigint; bytes: number } | undefined {
  const digits = text.trim().replace(/[\s:.-]/g, '');
  return /^(?:[0-9a-f]{8}|[0-9a-f]{14}|[0-9a-f]{20})$/i.test(digits)
    ? { value: BigInt(`0x${digits}`), bytes: digits.length / 2 }
    : undefined;
}

/** What readers send of a UID where it does not fit: its first or last three or four bytes. Common practice, no source. */
const UID_PARTS = (['first', 'last'] as const).flatMap((from) => [4, 3].map((count) => ({ from, count })));

function withUidPart(
  texts: readonly (string | undefined)[],
  print: number,
  bytes: (typeof UID_PARTS)[number],
): PrintReading {
  const partOf = (text: string): bigint | undefined => {
    const uid = uidOf(text);
    if (!uid || uid.bytes <= bytes.count) return undefined;
    const rest = bytes.from === 'first' ? uid.value >> BigInt(8 * (uid.bytes - bytes.count)) : uid.value;
    return BigInt.asUintN(8 * bytes.count, rest);
  };
  return {
    kind: 'a part of the UID',
    print,
    bytes,
    facilities: [],
    numbers: texts.map((text) => (text === undefined ? undefined : partOf(text))),
    numberOf: ({ text }) => partOf(text),
  };
}

/** The value of a number as its decimal digits in hex would give it. */
const bcdOf = (value: bigint): bigint => BigInt(`0x${value.toString()}`);

/** How a print is read to a number, for the kinds that need no search. */
const NUMBER_OF: Record<
  'as printed' | 'digits in BCD or hex' | 'facility and number joined in one decimal',
  PrintReading['numberOf']
> = {
  'as printed': (print) => print.plain,
  'digits in BCD or hex': (print) => (print.decimal === undefined ? undefined : bcdOf(print.decimal)),
  'facility and number joined in one decimal': (print) =>
    print.decimal === undefined || print.decimal % JOINED > 65_535n ? undefined : print.decimal % JOINED,
};

/** The readings of a set of specimens that need no search, plain ones first. */
export function plainReadings(specimens: readonly Specimen[]): PrintReading[] {
  const readings: PrintReading[] = [];
  const most = Math.max(0, ...specimens.map((s) => s.prints.length));
  for (let print = 0; print < most; print++) {
    const values = specimens.map((s) => (s.prints[print] ? printValue(s.prints[print]!) : undefined));
    const reading = (kind: keyof typeof NUMBER_OF, facilities: (bigint | undefined)[]) =>
      readings.push({
        kind,
        print,
        facilities,
        numbers: values.map((value) => value && NUMBER_OF[kind](value)),
        numberOf: NUMBER_OF[kind],
      });
    reading(
      'as printed',
      values.map((value) => value?.facility),
    );
    const given = values.filter((value) => value !== undefined);
    if (given.some((v) => v.decimal !== undefined && v.decimal > 9n)) reading('digits in BCD or hex', []);
    const joined = given.filter((v) => v.decimal !== undefined && v.decimal % JOINED <= 65_535n);
    if (joined.length === given.length && joined.some((v) => v.decimal! >= JOINED))
      reading(
        'facility and number joined in one decimal',
        values.map((value) => (value?.decimal === undefined ? undefined : value.decimal / JOINED)),
      );
    const texts = specimens.map((s) => s.prints[print]?.text);
    // Digits alone are a UID only where they are too many for a number.
    const isUid = (text: string) => uidOf(text) !== undefined && (/[a-f]/i.test(text) || text.length >= 14);
    if (texts.some((text) => text !== undefined && isUid(text)))
      for (const part of UID_PARTS) {
        const own = withUidPart(texts, print, part);
        if (texts.every((text, i) => text === undefined || own.numbers[i] !== undefined)) readings.push(own);
      }
  }
  return readings;
}

/** A reading with a constant added to another. */
export function withAdded(reading: PrintReading, add: bigint): PrintReading {
  const plus = (value: bigint | undefined) => (value === undefined || value + add < 0n ? undefined : value + add);
  return {
    ...reading,
    kind: 'a constant added',
    add,
    numbers: reading.numbers.map(plus),
    numberOf: (print) => plus(reading.numberOf(print)),
  };
}

/**
 * A reading in which only the last decimal digits of the number are printed: the specimens' numbers are as they stand in their bits,
 * and that of another print is the one nearest to any of them that ends in its digits.
 */
export function withLastDigits(
  reading: PrintReading,
  digits: number,
  numberIn: (index: number) => bigint,
): PrintReading {
  const modulus = 10n ** BigInt(digits);
  const numbers = reading.numbers.map((number, i) => (number === undefined ? undefined : numberIn(i)));
  const known = numbers.filter((number) => number !== undefined);
  const nearest = (ending: bigint): bigint => {
    let best: bigint | undefined;
    const away = (number: bigint) =>
      known.reduce((least, one) => min(least, abs(one - number)), abs(known[0]! - number));
    for (const one of known)
      for (const turn of [-1n, 0n, 1n]) {
        const number = one - (one % modulus) + turn * modulus + ending;
        if (number >= 0n && (best === undefined || away(number) < away(best))) best = number;
      }
    return best!;
  };
  return {
    ...reading,
    kind: 'the last digits only',
    numbers,
    numberOf: ({ decimal }) => (decimal === undefined || decimal >= modulus ? undefined : nearest(decimal)),
  };
}

const abs = (value: bigint): bigint => (value < 0n ? -value : value);
const min = (a: bigint, b: bigint): bigint => (a < b ? a : b);

export function readingInWords({ kind, add, print, bytes }: PrintReading): string {
  const which = print === 0 ? 'the print' : `print ${print + 1}`;
  switch (kind) {
    case 'as printed':
      return `${which} is the number`;
    case 'digits in BCD or hex':
      return `the digits of ${which} stand in the bits one by one, four bits each`;
    case 'facility and number joined in one decimal':
      return `the last five digits of ${which} are the number, those before them the facility code`;
    case 'a constant added':
      return `the number is ${which} ${add! < 0n ? `less ${-add!}` : `plus ${add}`}`;
    case 'a part of the UID':
      return `the number is the ${bytes!.from} ${bytes!.count} bytes of the UID in ${which}`;
    case 'the last digits only':
      return `${which} shows only the last digits of a longer number, which is taken as the one nearest to the cards read`;
  }
}
