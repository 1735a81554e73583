/** The words of a settings sheet: fields, settings and whole lines as people write them. Common practice, no source. */
import { fail } from '../failure/index.ts';

/** Names of fields as people write them. */
const NAMES: readonly (readonly [role: string, RegExp])[] = [
  ['facility', /^(?:(?:facility|site|system)(?:\s*(?:code|id|number|no\.?))?|fac|fc|sc)$/i],
  ['number', /^(?:(?:card|badge|credential|id|user|serial)?\s*(?:number|no\.?|num|#)|card(?:\s*id)?|badge|cn|id)$/i],
  ['issue', /^issue(?:\s*(?:level|code|number|no\.?))?$/i],
];
const ITEM = /^(?:value\s+"(?:[^"\\]|\\.)*"|(?:parity|check|fixed)\s+\S.*|format)$/i;

/** The item that a name means; undefined where it means none. */
export function fieldNamed(name: string): string | undefined {
  const text = name.trim();
  for (const [role, pattern] of NAMES) if (pattern.test(text)) return role;
  if (/^(?:the whole|whole|card format)$/i.test(text)) return 'format';
  if (ITEM.test(text)) return text.replace(/^\w+/, (word) => word.toLowerCase());
  return undefined;
}

/** The same, refused where it means none. */
export function itemNamed(name: string, row: number): string {
  const item = fieldNamed(name);
  if (item) return item;
  return fail(
    'sheet-name',
    `"${name.trim().slice(0, 40)}" is no field of a format.`,
    { row, column: 1 },
    'Write facility, number, issue, value "…", parity 1 or the like.',
  );
}

/** Settings that say where an item stands, most exact first; and all others that a row may give. */
export const PLACES = [
  'positions',
  'position list',
  'start, from the first bit, counted from 1',
  'start, from the first bit, counted from 0',
  'start, from the last bit, counted from 1',
  'start, from the last bit, counted from 0',
  'start',
  'mask',
  'mask, binary',
  'mask, hex right-justified',
  'mask, hex left-justified',
] as const;
export const COVERS = [
  'covers',
  'covered bits, position list',
  'covered bits, binary',
  'covered bits, hex right-justified',
  'covered bits, hex left-justified',
] as const;
export const OF_ITEMS = new Set<string>([
  ...PLACES,
  ...COVERS,
  ...['length', 'written', 'bits', 'sense', 'side', 'method'],
  ...['positions as they arrive', 'mask as they arrive, hex right-justified'],
]);
export const FLAGS = ['bytes arrive reversed', 'bits arrive reversed', 'arrives inverted'] as const;
export const OF_WHOLE = new Set<string>([
  ...['total bits', 'facility code', 'offset added to the number', 'even parity bits', 'odd parity bits'],
  'facility code and number printed as one decimal',
  ...FLAGS,
  ...['start from 1', 'start from 0', 'length', 'mask, hex'].map((of) => `whole string as one number: ${of}`),
]);
/** Other words for settings. */
export const WORDS: Record<string, string> = {
  bits: 'total bits',
  'number of bits': 'total bits',
  'card length': 'total bits',
  inverted: 'arrives inverted',
};
export const ITEM_WORDS: Record<string, string> = {
  position: 'positions',
  'start bit': 'start',
  'first bit': 'start',
  size: 'length',
  'number of bits': 'length',
  width: 'length',
  'covered bits': 'covers',
};

export const FREE_BITS =
  /^(?:(?:total\s+|number\s+of\s+|card\s+)?(?:bits|length)\s*[:=]?\s*(\d+)(?:\s*bits)?|(\d+)[\s-]*bits)$/i;
export const FREE_PARITY =
  /^(?:parity\s+)?(even|odd)(?:\s+parity)?(?:\s+(?:bit|at))*\s*[:=]?\s*(\d+)\s*(?:covers|covering|over|of|:)\s*(\S.*)$/i;
export const FREE_FLAG = /^(bytes arrive reversed|bits arrive reversed|arrives inverted|inverted)\s*[:=]?\s*(\w*)$/i;
export const FREE_FACILITY = /^(?:facility|site)(?:\s+code)?\s*=\s*(\d+)$/i;
export const FREE =
  /^(value\s+"(?:[^"\\]|\\.)*"|[a-z][a-z .#]*?)\s*[:=,]?\s*(?:(?:start|start\s+bit|first\s+bit)\s*[:=]?\s*(\d+)\s*[,;]?\s*(?:length|bits|size|width)\s*[:=]?\s*(\d+)|mask\s*[:=]?\s*(\S.*)|(?:positions?|bits)\s*[:=]?\s*(\d.*))$/i;
