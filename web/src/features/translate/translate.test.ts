import type { NamedTranslation } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { numberBy, readingsBy } from '../../parts/readings/readingsBy.ts';
import { explained, filled, pairsFrom } from './pairs.ts';

// 4-byte UIDs made up, as hex and as the decimal of their reversed bytes (DOMAIN §1, common practice).
const PASTED = '473670148\t04A23B1C\n2421107741;1D2C4F90\n';

describe('pairs and what comes of them', () => {
  const { result } = explained(pairsFrom(PASTED));
  const { translation } = result!.explanations[0]!;
  const named: NamedTranslation = { id: '1', name: 'Desk', notes: '', translation, createdBy: 'x', createdAt: '' };

  it('are read from a pasted table; empty rows do not count', () => {
    expect(filled([...pairsFrom(PASTED), { a: '', b: '' }, { a: '1', b: '' }])).toHaveLength(2);
    expect(explained([{ a: '?', b: '1' }]).failure).toMatchObject({ where: { row: 1, field: 'a' } });
  });

  it('a translation kept reads a paste as the other device would have, and gives Stock its number', () => {
    expect(readingsBy([named], '473670148')).toMatchObject([
      { bits: BigInt(0x04a23b1c).toString(2).padStart(32, '0') },
    ]);
    expect(readingsBy([named], 'not a number')).toEqual([]);
    expect([numberBy(named, '473670148'), numberBy(named, '?')]).toEqual([String(0x04a23b1c), undefined]);
  });
});
