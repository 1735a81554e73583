/** Keeping credentials: their memory as text, and what a torn write leaves. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blankTag, writeTag } from '../../lf/index.ts';
import { blankFiles, type FilesMemory } from '../files/index.ts';
import { blankSectors } from '../sectors/index.ts';
import { copied, keptText, memoryFrom, torn } from './index.ts';

const UID = Uint8Array.of(4, 1, 2, 3, 4, 5, 6);
const files = (data: number[], value: number, second: number[]): FilesMemory => ({
  ...blankFiles({ generation: 2, masterKey: 'aes', uid: UID }),
  applications: [
    {
      id: 0x3042f5,
      settings: 0x0f,
      keyKind: 'aes',
      keys: [{ bytes: new Uint8Array(16), version: 1 }],
      usesIsoIds: false,
      files: [
        { number: 0, kind: 'standard', mode: 0, rights: 0xeeee, data: Uint8Array.from(data) },
        { number: 1, kind: 'backup', mode: 0, rights: 0xeeee, data: Uint8Array.from(second) },
        {
          number: 2,
          kind: 'value',
          mode: 0,
          rights: 0xeeee,
          lower: 0,
          upper: 9,
          value,
          limitedCredit: 0,
          limitedCreditOn: false,
          freeGetValue: false,
        },
      ],
    },
  ],
});
const bytes = fc.uint8Array({ minLength: 200, maxLength: 200 });
const drawFrom = (all: Uint8Array) => {
  let at = 0;
  return (count: number) => Uint8Array.from({ length: count }, () => all[at++ % all.length]!);
};

describe('the memory of a credential', () => {
  it.each([
    ['a file-system card', files([1, 2, 3], 7, [4])],
    ['a sector card', blankSectors('4K', UID)],
    ['a tag', blankTag()],
  ])('%s comes back from its text, keys and all', (_, memory) => {
    expect(memoryFrom(keptText(memory))).toEqual(memory);
    expect(copied(memory)).not.toBe(memory);
  });

  it.each(['', '{}', 'null', '{"kind":"door"}', '{"kind":"files"', '[1]'])('%j is none', (text) => {
    expect(() => memoryFrom(text)).toThrow('not the memory of a credential');
  });
});

describe('a torn write', () => {
  it('of a standard file leaves anything in the bytes that were to change, and no other', () => {
    const [before, after] = [files([1, 1, 1, 1], 0, [0]), files([1, 9, 9, 1], 0, [0])];
    const seen = new Set<number>();
    fc.assert(
      fc.property(bytes, (chance) => {
        const file = torn(before, after, drawFrom(chance)).applications[0]!.files[0]!;
        const data = 'data' in file ? file.data : new Uint8Array();
        expect([data[0], data[3]]).toEqual([1, 1]);
        seen.add(data[1]!);
      }),
      { numRuns: 400 },
    );
    expect([seen.has(1), seen.has(9), seen.size > 2]).toEqual([true, true, true]);
  });

  it('of what is committed is whole: backup and value together, as before or as after', () => {
    const [before, after] = [files([1], 3, [1, 2]), files([1], 5, [7, 8])];
    const seen = new Set<string>();
    fc.assert(
      fc.property(bytes, (chance) => void seen.add(keptText(torn(before, after, drawFrom(chance))))),
      { numRuns: 200 },
    );
    expect([...seen].sort()).toEqual([keptText(before), keptText(after)].sort());
  });

  it('of a sector or tag block leaves anything there, and every other block as it was', () => {
    const sectors = blankSectors('1K', Uint8Array.of(1, 2, 3, 4));
    const written = copied(sectors);
    written.blocks[5]!.fill(0xaa);
    const tag = blankTag();
    const tagAfter = copied(tag);
    writeTag(tagAfter, 3, 0xffffffff);
    const words = new Set<number>();
    fc.assert(
      fc.property(bytes, (chance) => {
        const left = torn(sectors, written, drawFrom(chance));
        left.blocks.forEach((block, i) => {
          if (i !== 5) expect(block).toEqual(sectors.blocks[i]);
        });
        const leftTag = torn(tag, tagAfter, drawFrom(chance));
        words.add(leftTag.blocks[3]!);
        expect(leftTag.blocks.filter((_, i) => i !== 3).every((word) => word === 0)).toBe(true);
      }),
      { numRuns: 50 },
    );
    expect(words.size).toBeGreaterThan(3);
  });
});
