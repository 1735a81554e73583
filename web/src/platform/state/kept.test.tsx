/** Two tabs of one browser: neither undoes what the other keeps. */
import { beforeEach, expect, it, vi } from 'vitest';
import { keeping, keptUnder } from './kept.ts';

beforeEach(() => localStorage.clear());
const kept = () => JSON.parse(localStorage.getItem('things') ?? 'null');

it('a tab keeps what it changes, and nothing while it changes nothing', () => {
  const keep = keeping('things', { theme: 'day', rig: false });
  keep({ theme: 'day', rig: false });
  expect(kept()).toBeNull();
  keep({ theme: 'day', rig: true });
  expect(kept()).toEqual({ rig: true });
});

it('what another tab kept meanwhile stays, whatever this one does then', () => {
  const here = keeping('things', { theme: 'day', rig: false });
  const there = keeping('things', { theme: 'day', rig: false });
  there({ theme: 'night', rig: false });
  here({ theme: 'day', rig: false });
  here({ theme: 'day', rig: true });
  expect(kept()).toEqual({ theme: 'night', rig: true });
});

it('what is taken out is out, what another put in is not', () => {
  const here = keeping<Record<string, number>>('things', { a: 1 });
  localStorage.setItem('things', JSON.stringify({ a: 1, b: 2 }));
  here({});
  expect(kept()).toEqual({ b: 2 });
});

it.each([['nonsense'], ['null'], ['7']])('%s under the name is nothing, and is written over', (text) => {
  localStorage.setItem('things', text);
  expect(keptUnder('things')).toEqual({});
  keeping<Record<string, number>>('things', {})({ a: 1 });
  expect(kept()).toEqual({ a: 1 });
});

it('a browser that keeps nothing more is no error', () => {
  vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
    throw new Error('full');
  });
  expect(() => keeping<Record<string, number>>('things', {})({ a: 1 })).not.toThrow();
  vi.restoreAllMocks();
});
