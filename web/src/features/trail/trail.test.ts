import type { AccessEvent, TrailEntry } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { differingFields } from './difference.ts';
import { matches, mergeByTime } from './merge.ts';

const event = (at: string) => ({ id: at, at, reason: 'Number 7 is not on file.' }) as AccessEvent;
const change = (seq: number, at: string) => ({ seq, at, operator: 'Tormod Vik', action: 'card issued' }) as TrailEntry;

describe('the trail', () => {
  it('is one list, newest first', () => {
    const rows = mergeByTime([event('2026-01-03'), event('2026-01-01')], [change(2, '2026-01-02')]);
    expect(rows.map((r) => r.at)).toEqual(['2026-01-03', '2026-01-02', '2026-01-01']);
    expect(rows.filter((r) => matches(r, 'TORMOD issued')).length).toBe(1);
  });

  it('shows only the fields that differ', () => {
    expect(differingFields({ state: 'active', notes: '' }, { state: 'lost', notes: '', seen: 1 })).toEqual([
      { field: 'state', before: 'active', after: 'lost' },
      { field: 'seen', before: undefined, after: '1' },
    ]);
    expect(differingFields(null, ['a'])).toEqual([{ field: 'value', before: undefined, after: '["a"]' }]);
  });
});
