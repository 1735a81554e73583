/**
 * A read within other words: a log line, a label and its value, a list of bytes as a program writes it. What is not the read is
 * passed over and said; where two things may be the read, neither is taken.
 */
import { fail } from '../failure/index.ts';

export interface Within {
  body: string;
  /** Beside it, in bits. */
  length?: number;
  named?: 'hex' | 'dec' | 'bin';
  /** What was passed over, as it stood there. */
  passedOver: string;
}

const MONTH = '(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*';
const DAY = String.raw`(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]*,?\s+)?(?:${MONTH}\s+\d{1,2}|\d{1,2}\s+${MONTH})(?:,?\s+\d{4})?|\d{4}-\d\d-\d\d|\d{1,2}\.\d{1,2}\.\d{4}|\d{1,2}/\d{1,2}/\d{2,4}`;
const CLOCK = String.raw`\d{1,2}:\d\d(?::\d\d(?:[.,]\d{1,9})?)?`;
const ZONE = String.raw`\s?(?:Z|UTC|[+-]\d\d:?\d\d)`;
/** A time stamp in front: ISO 8601 and the ways in which logs write it, in brackets or not. A time alone needs its seconds. */
const STAMP = new RegExp(
  String.raw`^[[(<]?(?:(?:${DAY})(?:[T ,]+${CLOCK}(?:${ZONE})?)?|\d{1,2}:\d\d:\d\d(?:[.,]\d{1,9})?(?:${ZONE})?)[\])>]?[\s,;|:-]+(?=\S)`,
  'i',
);

const LENGTHS = [
  /\b(\d{1,4})\s*(?:-\s*)?bits?\b(?:\s*[:,;])?/gi,
  /\b(?:bits?|bit[ _-]?count|len|length|nbits)\s*[=:]\s*(\d{1,4})\b\s*[,;]?/gi,
  /\b(?:bits|len|length)\s+(\d{1,4})$/gi,
  /\b(?:wiegand|w)[ -]?(\d{2,3})\b\s*[:,;]?/gi,
  /^[[(](\d{1,4})[\])]\s*[:,;]?/g,
  /[[(](\d{1,4})[\])]$/g,
];

/** What a value is called, as in `data=028E4694`. */
const LABEL =
  /\b(?:(hex|uid|csn|nuid)|(dec|decimal)|(bin|binary)|(?:raw|card)?[ _-]?data|raw|value|read|payload|credential|wiegand)\s*[=:]\s*/gi;

/** One item that may be a read, or a part of one: digits with `0x` or `$` in front, `h` behind, or alone. */
const ITEM = /^(?:(?:0x|\\x|\$|&h|#)?([0-9a-f]+)|([0-9][0-9a-f]*)h)$/i;
/** A word of letters only, such as *added* or *face*, is a word unless it says that it is none. */
const WORD = /^[a-z]+$/i;

/** Whether a text is a day or a time of day alone: its digits are no read. */
export const isMoment = (text: string): boolean =>
  new RegExp(`^(?:${DAY})$`, 'i').test(text) || /^(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d$/.test(text);

/** A time stamp in front of something else is cut off. */
export function withoutStamp(text: string): { body: string; stamp: string } {
  const stamp = STAMP.exec(text)?.[0] ?? '';
  return { body: text.slice(stamp.length), stamp: stamp.trim() };
}

/** `{0x02, 0x8E}`, `[02 8E]`, `"028E"`, `X'028E'`, `28E4694h`, `\x02\x8E` as what stands in them. */
export function unwrapped(text: string): { body: string; isHex: boolean } {
  let body = text.trim();
  let isHex = false;
  for (;;) {
    const before = body;
    body = body.replace(/^["'`“”‘’]+|["'`“”‘’]+$/g, '').trim();
    const quoted = /^[xh]'([0-9a-f\s]*)$/i.exec(body);
    if (quoted) [body, isHex] = [quoted[1]!.trim(), true];
    const [, bracketed] = /^[{[(<](.*)[}\])>];?$/.exec(body) ?? [];
    const inside = bracketed?.trim().replace(/,$/, '').trimEnd();
    // A length in brackets is one, not a read.
    if (inside !== undefined && !/^\d{1,3}$/.test(inside) && !/[{}[\]()<>]/.test(inside)) body = inside;
    if (body === before) break;
  }
  if (/^[0-9][0-9a-f]*h$/i.test(body)) [body, isHex] = [body.slice(0, -1), true];
  else if (/^(?:\$|&h|#)[0-9a-f]+$/i.test(body)) [body, isHex] = [body.replace(/^(?:\$|&h|#)/i, ''), true];
  else if (/^(?:\\x[0-9a-f]{2})+$/i.test(body)) [body, isHex] = [body.replaceAll(/\\x/gi, ' ').trim(), true];
  return { body, isHex };
}

/** Where a read came from, with its number: no read. */
const PLACE =
  /\b(?:door|reader|port|address|addr|channel|ch|line|panel|controller|gate|lane|output|input|slot)\s*[.#:=]?\s*\d{1,5}\b/gi;

interface Piece {
  text: string;
  from: number;
}

/** Undefined where nothing in the text may be a read. Throws `intake-two` where two things may be, `intake-lengths` where two lengths are named. */
export function readWithin(text: string): Within | undefined {
  const { body: beside, length } = lengthIn(text);
  const body = beside.replaceAll(PLACE, (whole) => ' '.repeat(whole.length));
  const labels = [...body.matchAll(LABEL)];
  const labelled = labels.flatMap((match, i) => {
    const from = match.index + match[0].length;
    const [first] = runsIn(body.slice(from, labels[i + 1]?.index), true);
    const named = match[1] ? 'hex' : match[2] ? 'dec' : match[3] ? 'bin' : undefined;
    return first && first.from === 0 ? [{ ...first, from, named: named as Within['named'] }] : [];
  });
  const runs = labelled.length > 0 ? labelled : runsIn(body, false).map((run) => ({ ...run, named: undefined }));
  const distinct = runs.filter((run, i) => runs.findIndex(({ text: other }) => other === run.text) === i);
  if (distinct.length === 0) return undefined;
  if (distinct.length > 1) {
    const [one, two] = [distinct[0]!, distinct[1]!];
    fail(
      'intake-two',
      `"${one.text}" and "${two.text}" may both be the read.`,
      { column: Math.max(0, text.indexOf(two.text)) + 1 },
      'Paste the read alone, or write hex:, dec: or bin: in front of it.',
    );
  }
  const [run] = distinct as [(typeof runs)[number]];
  const inside = unwrapped(run.text);
  const passedOver = text.replace(run.text, ' … ').replace(/\s+/g, ' ').trim();
  const named = run.named ?? (inside.isHex ? 'hex' : undefined);
  return { body: inside.body, passedOver, ...(length !== undefined && { length }), ...(named && { named }) };
}

function lengthIn(text: string): { body: string; length?: number } {
  const found = new Set<number>();
  let body = text;
  for (const pattern of LENGTHS)
    body = body.replaceAll(pattern, (whole, digits: string) => {
      found.add(Number(digits));
      return ' '.repeat(whole.length);
    });
  const [length, other] = [...found];
  if (other !== undefined)
    fail(
      'intake-lengths',
      `Two lengths are named, ${length} and ${other} bits.`,
      undefined,
      'Paste one read at a time.',
    );
  return length === undefined ? { body } : { body, length };
}

/** Runs of items that belong together: one item, or a list of bytes, or groups of binary digits. `isTold`: a label says that it is a value. */
function runsIn(text: string, isTold: boolean): Piece[] {
  const pieces = [...text.matchAll(/[^\s,;|=(){}[\]<>"'`“”‘’]+/g)].map((match) => ({
    text: match[0].replace(/[.:!?]+$/, ''),
    from: match.index,
  }));
  const runs: Piece[] = [];
  let last: Piece | undefined;
  for (const piece of pieces) {
    const colons = /^(?:[0-9a-f]{2}[:-])+[0-9a-f]{2}$/i.test(piece.text);
    const item = ITEM.exec(piece.text);
    const isItem = colons || (item !== null && (isTold || !WORD.test(piece.text)));
    if (!isItem) {
      // Hex digits behind a sign that belongs to none, or on both sides of one: something was typed into the read.
      const foreign = /^[0-9a-f]*([^0-9a-z]+)[0-9a-f]+$/i.exec(piece.text);
      if (foreign)
        fail(
          'intake-character',
          `"${foreign[1]}" in "${piece.text}" belongs to no notation of a read.`,
          { column: piece.from + piece.text.indexOf(foreign[1]!) + 1 },
          'Take it out, or paste the read alone.',
        );
      if (isTold && last) break;
      last = undefined;
      continue;
    }
    const isShort = /^(?:0x)?[0-9a-f]{2}$/i.test(piece.text) || /^[01]{3,8}$/.test(piece.text);
    const goesOn = last && isShort && /(?:^|[\s,:-])(?:0x)?(?:[0-9a-f]{2}|[01]{3,8})$/i.test(last.text);
    const between = last ? text.slice(last.from + last.text.length, piece.from) : '';
    if (last && goesOn && /^[\s,]+$/.test(between)) last.text = text.slice(last.from, piece.from + piece.text.length);
    else {
      if (isTold && last) break;
      last = { ...piece };
      runs.push(last);
    }
  }
  return runs;
}
