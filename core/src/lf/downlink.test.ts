/** What a rewritable tag does at each frame (ATA5577C data sheet, table of operation codes; from memory), and what it is not moved by. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blankTag, configurationOf, hears, identificationTag, type TagMemory } from './index.ts';

const word = (value: number) => (value >>> 0).toString(2).padStart(32, '0');
const three = (...words: number[]) => words.map(word).join('').repeat(3);
const PASSWORD = 0x51a7c0de;
const open = (): TagMemory => identificationTag(0x06001259e3n, 64, [0xe0150a11, 0x00c0ffee]);
function guarded(): TagMemory {
  const memory = open();
  memory.blocks[7] = PASSWORD;
  memory.blocks[0] = configurationOf({ rate: 64, modulation: 'manchester', lastBlock: 2, hasPassword: true });
  return memory;
}
const PAGE = three(0xff818000, 0xcaa974c8);

describe('a tag hears', () => {
  it.each([
    ['nothing, and sends its page', '', PAGE],
    ['reset', '00', PAGE],
    ['page 0', '10', PAGE],
    ['page 1: where it comes from', '11', three(0xe0150a11, 0x00c0ffee)],
    ['a block asked for', '100000', three(0x00148040)],
    ['block 2 of page 1 asked for', '110010', three(0x00c0ffee)],
    ['block 5 of page 1, which is not there', '110101', three(0xe0150a11, 0x00c0ffee)],
    ['a frame of no known length', '1010101', PAGE],
  ])('%s', (_, frame, heard) => {
    const memory = open();
    const before = structuredClone(memory);
    expect(hears(memory, frame)).toBe(heard);
    expect(memory).toEqual(before);
  });

  it('a write, with the lock and without', () => {
    const memory = open();
    expect(hears(memory, `100${word(0xabcd1234)}011`)).toBe(three(0xabcd1234));
    expect(hears(memory, `101${word(0x00000055)}011`)).toBe(three(0x55));
    expect(hears(memory, `100${word(0x00000066)}011`)).toBe(PAGE);
    expect([memory.blocks[3], memory.locked[3]]).toEqual([0x55, true]);
  });

  it('with its password on, what comes with it and nothing else', () => {
    const memory = guarded();
    const before = structuredClone(memory);
    for (const frame of ['100111', `100${word(1)}001`, `10${word(1)}0111`, `10${word(1)}0${word(5)}001`])
      expect(hears(memory, frame)).toBe(PAGE);
    expect(memory).toEqual(before);
    expect(hears(memory, `10${word(PASSWORD)}0111`)).toBe(three(PASSWORD));
    expect(hears(memory, `10${word(PASSWORD)}0${word(5)}001`)).toBe(three(5));
    // Which one it is it tells all the same.
    expect(hears(memory, '11')).toBe(three(0xe0150a11, 0x00c0ffee));
  });

  it('a block asked for with a password that it has not, as a write: the frames are equally long', () => {
    const memory = open();
    hears(memory, `10${word(0x80000001)}0000`);
    expect([memory.blocks[0], memory.locked[0]]).toEqual([2, true]);
  });

  it('any bits at all, and never writes page 1 nor what is locked', () => {
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[01]{0,75}$/), { maxLength: 20 }), (frames) => {
        const memory = { ...guarded(), locked: [true, false, true, false, false, false, false, true] };
        const { blocks, trace } = structuredClone(memory);
        for (const frame of frames) expect(hears(memory, frame)).toMatch(/^[01]*$/);
        expect(memory.trace).toEqual(trace);
        for (const at of [0, 2, 7]) expect(memory.blocks[at]).toBe(blocks[at]);
      }),
    );
    expect(hears(blankTag(), '10')).toBe('');
  });
});
