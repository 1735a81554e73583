import { act, renderHook } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { meetAgain } from './store.ts';
import { useKeptFilter } from './useKeptFilter.ts';

vi.mock('../endpoints/session.ts', () => ({ useSessionQuery: () => ({ data: { operator: { id: 'tormod' } } }) }));

const PLAIN = { search: '', state: '', order: 'newest' };

describe('what a list is looked through by', () => {
  afterEach(() => {
    localStorage.clear();
    meetAgain();
  });
  const look = (about = 'site cards') => renderHook(() => useKeptFilter(about, PLAIN)).result;

  it('is there again on another screen and after a reload, of its own list alone', () => {
    const first = look();
    expect(first.current[0]).toBe(PLAIN);
    act(() => first.current[1]({ ...PLAIN, search: '118' }));
    expect(look().current[0]).toEqual({ ...PLAIN, search: '118' });
    meetAgain();
    expect(look().current[0].search).toBe('118');
    expect(look('other site cards').current[0]).toBe(PLAIN);
  });

  it('is forgotten once it lets everything through', () => {
    const one = look();
    act(() => one.current[1]({ ...PLAIN, state: 'lost' }));
    act(() => one.current[1]({ ...PLAIN }));
    expect(one.current[0]).toBe(PLAIN);
    expect(JSON.stringify({ ...localStorage })).not.toContain('lost');
  });

  it('lacks nothing that this version asks for', () => {
    const one = look();
    act(() => one.current[1]({ search: 'x' } as typeof PLAIN));
    expect(one.current[0]).toEqual({ ...PLAIN, search: 'x' });
  });
});
