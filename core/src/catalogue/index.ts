/**
 * Catalogue: formats met in the trade, by structure. Each carries its standing: a published standard, common practice
 * in the trade (no source), or from memory.
 */
import { FORMAT_SCHEMA, type Format, parseLayoutLine } from '../format/index.ts';

const PRACTICE = 'common practice, no source';
const MEMORY = 'from memory';

const ENTRIES: [id: string, layout: string, name: string, source: string][] = [
  ['24-8-16', '24 | 1-8 facility | 9-24 number', '24 bits, 8 + 16, no parity', PRACTICE],
  [
    '26-8-16',
    '26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25',
    '26 bits, 8 + 16, the open format',
    'SIA AC-01-1996.10',
  ],
  ['26-0-24', '26 | 1 even 2-13 | 2-25 number | 26 odd 14-25', '26 bits, number only', PRACTICE],
  ['30-12-16', '30 | 1 even 2-13 | 2-13 facility | 14-29 number | 30 odd 14-29', '30 bits, 12 + 16', PRACTICE],
  ['32-0-32', '32 | 1-32 number', '32 bits, 4-byte UID', PRACTICE],
  ['32r-0-32', '32r | 1-32 number', '32 bits, 4-byte UID, bytes reversed', PRACTICE],
  ['33-7-24', '33 | 1 even 2-17 | 2-8 facility | 9-32 number | 33 odd 17-32', '33 bits, 7 + 24', MEMORY],
  ['34-16-16', '34 | 1 even 2-17 | 2-17 facility | 18-33 number | 34 odd 18-33', '34 bits, 16 + 16', PRACTICE],
  ['34-0-32', '34 | 1 even 2-17 | 2-33 number | 34 odd 18-33', '34 bits, 4-byte UID in parity', PRACTICE],
  [
    '35-12-20',
    '35 | 1 odd 2-35 | 2 even 3-4 by 3 to 34 | 3-14 facility | 15-34 number | 35 odd 2-3 by 3 to 33',
    '35 bits, 12 + 20, three parity bits',
    PRACTICE,
  ],
  [
    '36-8-2-24',
    '36 | 1 odd 2-18 | 2-9 facility | 10-11 issue | 12-35 number | 36 odd 18-35',
    '36 bits, 8 + 2 + 24, with issue level',
    MEMORY,
  ],
  ['37-16-19', '37 | 1 even 2-19 | 2-17 facility | 18-36 number | 37 odd 19-36', '37 bits, 16 + 19', PRACTICE],
  ['37-0-35', '37 | 1 even 2-19 | 2-36 number | 37 odd 19-36', '37 bits, number only', PRACTICE],
  [
    '48-22-23',
    '48 | 1 odd 2-48 | 2 even 4-5 by 3 to 47 | 3-24 facility | 25-47 number | 48 odd 3-4 by 3 to 46',
    '48 bits, 22 + 23, three parity bits',
    PRACTICE,
  ],
  ['56-0-56', '56 | 1-56 number', '56 bits, 7-byte UID', PRACTICE],
  ['56r-0-56', '56r | 1-56 number', '56 bits, 7-byte UID, bytes reversed', PRACTICE],
  ['58-0-56', '58 | 1 even 2-29 | 2-57 number | 58 odd 30-57', '58 bits, 7-byte UID in parity', MEMORY],
  ['64-0-64', '64 | 1-64 number', '64 bits, number only', PRACTICE],
  [
    '75-federal',
    '75 | 1 even 2-38 | 2-15 value "agency" | 16-29 value "system" | 30-49 value "credential" | 50-74 value "expiry" | 75 odd 39-74',
    '75 bits, agency, system, credential and expiry',
    MEMORY,
  ],
  [
    '200-fascn',
    '200 | 1-5 fixed 11010 | 6-25 value "agency" char5 | 26-30 fixed 10110 | 31-50 value "system" char5 | 51-55 fixed 10110 | 56-85 value "credential" char5 | 86-90 fixed 10110' +
      ' | 91-95 value "series" char5 | 96-100 fixed 10110 | 101-105 value "issue" char5 | 106-110 fixed 10110 | 111-160 value "person" char5 | 161-165 value "category" char5' +
      ' | 166-185 value "organisation" char5 | 186-190 value "association" char5 | 191-195 fixed 11111 | 196-200 check lrc5 1-195',
    '200 bits, FASC-N in 5-bit characters',
    'NIST technical guidance for smart-card enabled access control, v2.x',
  ],
];

/** Every format of the catalogue, shortest first. */
export const CATALOGUE: readonly Format[] = ENTRIES.map(([id, layout, name, source]) => ({
  schema: FORMAT_SCHEMA,
  id,
  name,
  ...parseLayoutLine(layout),
  source,
}));

/** The format of an id, or undefined. */
export function catalogued(id: string): Format | undefined {
  return CATALOGUE.find((format) => format.id === id);
}
