/**
 * The layout line: a format's layout in one line of text (Design §4), parsed and printed without loss.
 *
 *     26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25
 *     32r | 1-32 number | facility = 4100
 *     26 | 2-9 facility | 10-25 number | print = facility and number + 5000
 */
import { fail } from '../failure/index.ts';
import {
  type Arrives,
  AS_SENT,
  type CheckMethod,
  isLabel,
  type Layout,
  type Span,
  type Written,
} from './definition.ts';
import { printInWords } from './printed.ts';
import { parseRange, printRange } from './range.ts';
import { Scanner, splitAtBars } from './scanner.ts';

const RANGE = /\d+(?:\s*-\s*\d+)?(?:\s+by\s+\d+\s+to\s+\d+)?(?:\s*,\s*\d+(?:\s*-\s*\d+)?(?:\s+by\s+\d+\s+to\s+\d+)?)*/;
const ROLES = 'even, odd, facility, number, issue, fixed, value or check';
const LONGEST_LINE = 20_000;

/**
 * Parses a layout line. Only the grammar is checked here; what the layout means is checked by `problemsOf`.
 * Throws a failure with the column: `layout-empty`, `layout-long`, `layout-length`, `layout-syntax`, `layout-word`,
 * `layout-label`, or one of `parseRange`.
 */
export function parseLayoutLine(line: string): Layout {
  if (line.trim() === '')
    fail('layout-empty', 'The layout line is empty.', { column: 1 }, 'Begin with the length: 26 | 10-25 number.');
  if (line.length > LONGEST_LINE)
    fail('layout-long', `The layout line has ${line.length} characters; at most ${LONGEST_LINE} are read.`);
  const [head, ...rest] = splitAtBars(line);
  const layout: Layout = { ...parseHead(new Scanner(head!.text, head!.offset)), spans: [] };
  for (const part of rest) {
    const scanner = new Scanner(part.text, part.offset);
    const { column } = scanner;
    if (scanner.take(/facility\s*=/)) {
      if (layout.facility !== undefined) fail('layout-word', 'The facility code is given twice.', { column });
      layout.facility = scanner.need(/\d{1,40}/, 'a facility code in decimal');
    } else if (scanner.take(/print\s*=/)) {
      if (layout.print !== undefined) fail('layout-word', 'What is printed is given twice.', { column });
      layout.print = takePrint(scanner);
    } else {
      layout.spans.push(parseSpan(scanner));
    }
    if (!scanner.done)
      fail('layout-syntax', `Nothing should follow here, but ${scanner.found()} does.`, { column: scanner.column });
  }
  return layout;
}

function takePrint(scanner: Scanner): NonNullable<Layout['print']> {
  const what = scanner.need(/facility\s+and\s+number|number/, '"number" or "facility and number"');
  const sign = scanner.take(/[+-]/);
  const add = sign ? BigInt(scanner.need(/\d{1,40}/, 'a decimal that is added')) : 0n;
  return { joined: what !== 'number', add: (sign === '-' ? -add : add).toString() };
}

function parseHead(scanner: Scanner): { bits: number; arrives: Arrives } {
  const { column } = scanner;
  const bits = Number(scanner.need(/\d+/, 'the length in bits'));
  if (bits < 1 || bits > 512)
    fail('layout-length', `A format has 1 to 512 bits, not ${bits}.`, { column, field: 'bits' });
  const arrives = { ...AS_SENT };
  const flags: [RegExp, keyof Arrives][] = [
    [/r/, 'reverseBytes'],
    [/b/, 'reverseBits'],
    [/i/, 'invert'],
  ];
  for (const [pattern, name] of flags) arrives[name] = scanner.take(pattern) !== undefined;
  if (!scanner.done)
    fail(
      'layout-syntax',
      `${scanner.found()} cannot follow the length.`,
      { column: scanner.column },
      'Only r (bytes reversed), b (bits reversed) and i (inverted) may, in this order, and then a |.',
    );
  return { bits, arrives };
}

function takeRange(scanner: Scanner, what: string): string {
  const { column } = scanner;
  return printRange(parseRange(scanner.need(RANGE, what), column));
}

function parseSpan(scanner: Scanner): Span {
  const at = takeRange(scanner, 'positions such as 2-9');
  const { column } = scanner;
  const word = scanner.need(/[A-Za-z]\w*/, `a role (${ROLES})`);
  switch (word) {
    case 'even':
    case 'odd':
      return {
        role: 'parity',
        at,
        sense: word,
        covers: takeRange(scanner, 'the positions that the parity bit covers'),
      };
    case 'facility':
    case 'number':
    case 'issue':
      return { role: word, at, ...takeWritten(scanner) };
    case 'fixed':
      return { role: 'fixed', at, bits: scanner.need(/[01]+/, 'the fixed bits, such as 1010') };
    case 'value':
      return { role: 'value', label: takeLabel(scanner), at, ...takeWritten(scanner) };
    case 'check':
      return { role: 'check', at, method: takeMethod(scanner), covers: takeRange(scanner, 'the positions checked') };
    default:
      return fail('layout-word', `"${word}" is not a role.`, { column }, `Use ${ROLES}.`);
  }
}

function takeWritten(scanner: Scanner): { written?: Written } {
  const word = scanner.take(/(?:binary|bcd-low|bcd|char5)\b/);
  return word && word !== 'binary' ? { written: word as Written } : {};
}

function takeLabel(scanner: Scanner): string {
  const { column } = scanner;
  const text = scanner.need(/"(?:[^"\\]|\\.)*"/, 'a label in double quotes');
  let label: string;
  try {
    label = JSON.parse(text) as string;
  } catch {
    return fail('layout-label', `${text} is not a JSON string.`, { column });
  }
  if (!isLabel(label))
    fail(
      'layout-label',
      `${text} cannot be a label.`,
      { column },
      'Use 1 to 80 characters, not parity@ or check@ first.',
    );
  return label;
}

function takeMethod(scanner: Scanner): CheckMethod {
  const { column } = scanner;
  const word = scanner.need(/[a-z]+\d*/, 'a check: xor8, sum8, lrc5, mod10, crc8(…) or crc16(…)');
  const match = /^(xor|crc|lrc|sum|mod)(\d{1,2})$/.exec(word);
  const width = Number(match?.[2]);
  const isOther =
    (match?.[1] === 'lrc' && width !== 5) ||
    (match?.[1] === 'mod' && width !== 10) ||
    (match?.[1] === 'sum' && width > 32);
  if (!match || width < 1 || width > 64 || isOther)
    return fail(
      'layout-word',
      `"${word}" is not a check.`,
      { column },
      'Use xor8, xor4, sum8, sum8(complement), lrc5, mod10, crc8(…) or crc16(…).',
    );
  if (match[1] === 'mod') return { kind: 'mod10' };
  if (match[1] === 'sum') return { kind: 'sum', width, negated: takeComplement(scanner) };
  if (match[1] === 'xor') return { kind: 'xor', width };
  if (match[1] === 'lrc') return { kind: 'lrc5' };
  return takeCrc(scanner, width, column);
}

/** `(complement)` behind a sum. */
function takeComplement(scanner: Scanner): boolean {
  if (!scanner.take(/\(/)) return false;
  scanner.need(/complement/, 'complement, for the two’s complement');
  scanner.need(/\)/, ')');
  return true;
}

function takeCrc(scanner: Scanner, width: number, column: number): CheckMethod {
  const method = { kind: 'crc' as const, width, poly: '', init: '0', reflectIn: false, reflectOut: false, xorOut: '0' };
  scanner.need(/\(/, '( with the parameters, such as (poly=1021,init=FFFF)');
  const given = new Set<string>();
  do {
    const where = { column: scanner.column };
    const name = scanner.need(/[A-Za-z]+/, 'a parameter: poly, init, reflectIn, reflectOut or xorOut');
    if (given.has(name)) fail('layout-word', `${name} is given twice.`, where, 'Give each parameter once.');
    given.add(name);
    if (name === 'reflectIn' || name === 'reflectOut') method[name] = true;
    else if (name === 'poly' || name === 'init' || name === 'xorOut') {
      scanner.need(/=/, '=');
      method[name] = canonicalHex(scanner.need(/[0-9A-Fa-f]{1,16}\b/, 'a hex number of at most 16 digits'));
    } else
      fail('layout-word', `"${name}" is not a CRC parameter.`, where, 'Use poly, init, reflectIn, reflectOut, xorOut.');
  } while (scanner.take(/,/));
  scanner.need(/\)/, ') or a comma');
  if (method.poly === '') fail('layout-syntax', 'A CRC needs its polynomial.', { column }, 'Write poly=1021, in hex.');
  return method;
}

const canonicalHex = (text: string): string => text.toUpperCase();

/** Prints a layout as its layout line; `parseLayoutLine` gives the same layout back. */
export function printLayoutLine(layout: Layout): string {
  const { reverseBytes, reverseBits, invert } = layout.arrives;
  const head = `${layout.bits}${reverseBytes ? 'r' : ''}${reverseBits ? 'b' : ''}${invert ? 'i' : ''}`;
  const tail = [
    ...(layout.facility === undefined ? [] : [`facility = ${layout.facility}`]),
    ...(layout.print === undefined ? [] : [`print = ${printInWords(layout.print)}`]),
  ];
  return [head, ...layout.spans.map(printSpan), ...tail].join(' | ');
}

function printSpan(span: Span): string {
  const written = 'written' in span && span.written ? ` ${span.written}` : '';
  switch (span.role) {
    case 'parity':
      return `${span.at} ${span.sense} ${span.covers}`;
    case 'fixed':
      return `${span.at} fixed ${span.bits}`;
    case 'value':
      return `${span.at} value ${JSON.stringify(span.label)}${written}`;
    case 'check':
      return `${span.at} check ${printMethod(span.method)} ${span.covers}`;
    default:
      return `${span.at} ${span.role}${written}`;
  }
}

/** A check's method as the layout line writes it, `crc16(poly=1021,init=FFFF)`. */
export function printMethod(method: CheckMethod): string {
  if (method.kind === 'lrc5' || method.kind === 'mod10') return method.kind;
  if (method.kind === 'sum') return `sum${method.width}${method.negated ? '(complement)' : ''}`;
  if (method.kind === 'xor') return `xor${method.width}`;
  const parameters = [`poly=${method.poly}`];
  if (method.init !== '0') parameters.push(`init=${method.init}`);
  if (method.reflectIn) parameters.push('reflectIn');
  if (method.reflectOut) parameters.push('reflectOut');
  if (method.xorOut !== '0') parameters.push(`xorOut=${method.xorOut}`);
  return `crc${method.width}(${parameters.join(',')})`;
}
