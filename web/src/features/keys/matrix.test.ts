import type { Key, KeyHolding, KeySet } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { leakAt, markOf, matrixOf } from './matrix.ts';

const version = (number: number, parts = 0, state = 'ready') =>
  ({ version: number, state, parts, cards: number * 10, components: [] }) as unknown as Key['versions'][number];
const SETS = [
  {
    id: 's',
    name: 'Staff',
    keys: [
      { id: 'k', name: 'Master', current: 1, versions: [version(1, 2)] },
      { id: 'r', name: 'Reading', current: 2, versions: [version(0, 0, 'destroyed'), version(1), version(2)] },
    ],
  },
] as unknown as KeySet[];
const held = (
  holder: string,
  kind: KeyHolding['kind'],
  keyId: string,
  number: number,
  what: KeyHolding['what'] = 'whole',
  until: string | null = null,
): KeyHolding => ({
  id: `${holder} ${keyId} ${number}`,
  keyId,
  version: number,
  kind,
  holderId: kind === 'partner' ? '' : holder,
  holder,
  what,
  how: '',
  since: '2026-01-01T00:00:00.000Z',
  until,
});
const HOLDINGS = [
  held('Iris', 'person', 'k', 1, 'part'),
  held('Tobias', 'person', 'k', 1, 'part'),
  held('Canteen', 'partner', 'r', 1, 'whole', '2026-02-01T00:00:00.000Z'),
  held('Dive store', 'reader', 'r', 2),
  held('Iris', 'person', 'r', 2),
];

describe('who holds what', () => {
  const matrix = matrixOf(SETS, HOLDINGS);

  it('has a row for each version that is there, and a column for each holder, people first', () => {
    expect(matrix.rows.map(({ name, version: v, inUse }) => `${name} ${v}${inUse ? ' in use' : ''}`)).toEqual([
      'Staff / Master 1 in use',
      'Staff / Reading 1',
      'Staff / Reading 2 in use',
    ]);
    expect(matrix.holders.map(({ name }) => name)).toEqual(['Iris', 'Tobias', 'Dive store', 'Canteen']);
    expect(matrix.rows.map(({ cells }) => matrix.holders.map(({ id }) => markOf(cells.get(id))))).toEqual([
      ['part', 'part', undefined, undefined],
      [undefined, undefined, undefined, 'was'],
      ['whole', undefined, 'whole', undefined],
    ]);
  });

  it.each([
    [['person Iris'], ['Reading 2 whole Dive store']],
    [
      ['person Iris', 'person Tobias'],
      ['Master 1 together ', 'Reading 2 whole Dive store'],
    ],
    [['partner Canteen'], []],
    [['reader Dive store'], ['Reading 2 whole Dive store']],
  ])('a leak at %j reaches %j', (holders, reached) => {
    const leaks = leakAt(matrix, new Set(holders));
    expect(
      leaks.map(({ row, how, readers }) => `${row.name.split(' / ')[1]} ${row.version} ${how} ${readers.join()}`),
    ).toEqual(reached);
  });

  it('who saw a key knows it for good', () => {
    expect(markOf([held('Iris', 'person', 'r', 2, 'whole', '2026-02-01T00:00:00.000Z')])).toBe('whole');
  });
});
