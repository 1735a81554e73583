/**
 * What a rewritable tag does when an encoder gaps the field at it, and what it sends then (ATA5577C data sheet, "Downlink
 * protocol" and its table of operation codes; from memory). A frame is a string of bits: two of operation code (10 page 0, 11
 * page 1, 00 reset), and by its length what is meant:
 *
 * | frame                                  | without password   | with password                |
 * |----------------------------------------|--------------------|------------------------------|
 * | `1p`                                   | send the page      | send the page                |
 * | `1p 0 address(3)`                      | send a block       | nothing                      |
 * | `1p lock data(32) address(3)`          | write a block      | see below                    |
 * | `1p password(32) 0 address(3)`         | see above          | send a block                 |
 * | `1p password(32) lock data(32) address(3)` | nothing        | write a block                |
 *
 * The third and fourth are equally long: asked for a block with a password, a tag that has none is written over. A tag that does
 * nothing goes on sending its page. Page 1 holds where the tag comes from, in blocks 1 and 2, and is never written.
 */
import { configurationIn, type TagMemory, writeTag } from './rewritable.ts';

const ROUNDS = 3;
const wordText = (word: number): string => (word >>> 0).toString(2).padStart(32, '0');
const number = (bits: string): number => Number.parseInt(bits, 2) >>> 0;

/** Where a tag that was never told comes from: nowhere. */
const traceOf = ({ trace }: TagMemory): readonly number[] => trace ?? [0, 0];

/** The blocks that a tag sends of a page when nothing else is asked of it: of page 0 those that its configuration names. */
function pageOf(memory: TagMemory, page: 0 | 1): readonly number[] {
  return page === 1 ? traceOf(memory) : memory.blocks.slice(1, configurationIn(memory.blocks[0]!).lastBlock + 1);
}

const sent = (words: readonly number[]): string => words.map(wordText).join('').repeat(ROUNDS);

/** The block of a page; undefined where there is none. */
const blockOf = (memory: TagMemory, page: 0 | 1, block: number): number | undefined =>
  page === 0 ? memory.blocks[block] : traceOf(memory)[block - 1];

/** Changes the memory as the frame says, and gives the bits that are heard from the tag then: what it sends, three times. */
export function hears(memory: TagMemory, frame: string): string {
  if (!/^1[01]/.test(frame)) return sent(pageOf(memory, 0));
  const page = frame[1] === '1' ? 1 : 0;
  const { hasPassword } = configurationIn(memory.blocks[0]!);
  let rest = frame.slice(2);
  let password: number | undefined;
  if (hasPassword && rest.length > 32) {
    password = number(rest.slice(0, 32));
    rest = rest.slice(32);
  }
  const isOpen = !hasPassword || password === memory.blocks[7];
  const address = number(rest.slice(-3));
  if (rest.length === 4 && rest[0] === '0' && isOpen) {
    const word = blockOf(memory, page, address);
    return word === undefined ? sent(pageOf(memory, page)) : sent([word]);
  }
  if (rest.length === 36 && page === 0 && isOpen) {
    const refused = writeTag(memory, address, number(rest.slice(1, 33)), { password, lock: rest[0] === '1' });
    return refused ? sent(pageOf(memory, 0)) : sent([memory.blocks[address]!]);
  }
  return sent(pageOf(memory, rest === '' ? page : 0));
}
