/** Selection: ISO/IEC 14443-3 §6; the values of each chip from its data sheet. */
import { describe, expect, it } from 'vitest';
import { hexOf } from '../../cipher/index.ts';
import { blankTag } from '../../lf/index.ts';
import { blankFiles } from '../files/index.ts';
import { blankSectors } from '../sectors/index.ts';
import { selectionOf, selectOne } from './index.ts';

const SEVEN = Uint8Array.of(4, 1, 2, 3, 4, 5, 6);
const FOUR = Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4);
const files = blankFiles({ generation: 2, masterKey: 'aes', uid: SEVEN });
const random = (count: number) => new Uint8Array(count).fill(0x5a);
const field = (...memories: Parameters<typeof selectionOf>[0][]) => memories.map((memory, key) => ({ key, memory }));

describe('a credential in the field', () => {
  it.each([
    ['a file-system card', files, '4403', 0x20, '06757781028 0'.replace(' ', '')],
    ['a sector card 1K', blankSectors('1K', FOUR), '0400', 0x08, ''],
    ['a sector card 4K of seven bytes', blankSectors('4K', SEVEN), '4200', 0x18, ''],
  ] as const)('%s', (_, memory, atqa, sak, ats) => {
    const found = selectionOf(memory, random)!;
    expect([hexOf(found.atqa), found.sak, hexOf(found.ats)]).toEqual([atqa, sak, ats]);
    expect(found.uid).toEqual(memory.uid);
  });

  it('with a random identifier: four bytes that begin with 08, drawn on every selection', () => {
    const found = selectionOf({ ...files, randomUid: true }, random)!;
    expect([hexOf(found.uid), hexOf(found.atqa)]).toEqual(['085A5A5A', '0403']);
  });

  it('two are told, not chosen from; a tag of the other frequency is not there', () => {
    expect(selectOne(field(), random)).toBe('no card');
    expect(selectOne(field(blankTag()), random)).toBe('no card');
    expect(selectOne(field(files, blankTag()), random)).toMatchObject({ key: 0 });
    expect(selectOne(field(files, blankSectors('1K', FOUR)), random)).toBe('two cards');
    expect(selectOne(field(files, files), random)).toBe('two cards');
  });
});
