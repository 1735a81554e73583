/**
 * The encoder of a rewritable tag (ATA5577C data sheet, "Downlink protocol"; from memory): frames are strings of bits, and what
 * comes back is what the tag is heard sending after one. A tag never says no: asked for what it does not give it goes on
 * with its page, so that what is written has to be read back.
 *
 * With its password on, a frame that asks for a block is as long as one that writes a block of a tag without: a password is
 * only sent to a tag that was asked without one, twice, and did not answer.
 */
import { fail } from '../failure/index.ts';

/** What a frame is about, for whoever keeps what goes to and fro. */
export interface TagFrame {
  name: 'send its blocks' | 'say where it comes from' | 'read block' | 'write block' | 'lock block';
  block?: number;
  /** Whether a password is in the frame or in what is heard. */
  isSecret: boolean;
}

/** Sends a frame and gives the bits heard after it, several rounds of them; empty where nothing is heard. */
export interface TagTransport {
  transmitTag(frame: string, about: TagFrame): Promise<string>;
}

const PAGE_0 = '10';
const PAGE_1 = '11';
const WORD = 32;
const PASSWORD_BLOCK = 7;
const TRACE_BITS = 64;
const word = (value: number): string => (value >>> 0).toString(2).padStart(WORD, '0');
const address = (block: number): string => block.toString(2).padStart(3, '0');

export class TagHost {
  constructor(private readonly transport: TagTransport) {}

  /** Where the tag comes from, by which it is told from all others: eight bytes. Throws `tag-silent`. */
  async trace(): Promise<Uint8Array> {
    const heard = await this.transport.transmitTag(PAGE_1, { name: 'say where it comes from', isSecret: false });
    const bits = heard.slice(0, TRACE_BITS);
    if (heard.length < 2 * TRACE_BITS || !heard.startsWith(bits, TRACE_BITS))
      fail('tag-silent', 'The tag does not say which one it is.', undefined, 'Lay a rewritable tag on, and only one.');
    return Uint8Array.from({ length: 8 }, (_, i) => Number.parseInt(bits.slice(8 * i, 8 * i + 8), 2));
  }

  /** What it sends when nothing is asked of it: its blocks from 1 on, several times; empty where nothing is heard. */
  listen(): Promise<string> {
    return this.transport.transmitTag(PAGE_0, { name: 'send its blocks', isSecret: false });
  }

  /**
   * The configuration as a tag gives it to everybody; undefined where it wants its password. A tag that goes on with its page,
   * where all blocks are the same, would be taken for one that answered: what it sends unasked tells them apart.
   */
  async configuration(): Promise<number | undefined> {
    const first = (await this.read(0)) ?? (await this.read(0));
    if (first === undefined) return undefined;
    const unasked = await this.listen();
    const isPage = unasked !== '' && unasked === word(first).repeat(unasked.length / WORD);
    return isPage ? undefined : first;
  }

  /** A block of page 0 as a word; undefined where the tag does not give it. */
  async read(block: number, password?: number): Promise<number | undefined> {
    const frame = `${PAGE_0}${password === undefined ? '' : word(password)}0${address(block)}`;
    const isSecret = password !== undefined || block === PASSWORD_BLOCK;
    const heard = await this.transport.transmitTag(frame, { name: 'read block', block, isSecret });
    const first = heard.slice(0, WORD);
    const isOneWord = heard.length >= 2 * WORD && heard === first.repeat(Math.floor(heard.length / WORD));
    return isOneWord ? Number.parseInt(first, 2) >>> 0 : undefined;
  }

  /** Writes a block of page 0, and locks it for good where that is said. Whether it was written only reading tells. */
  async write(block: number, value: number, { password, lock = false }: { password?: number; lock?: boolean } = {}) {
    const head = `${PAGE_0}${password === undefined ? '' : word(password)}`;
    const isSecret = password !== undefined || block === PASSWORD_BLOCK;
    const about: TagFrame = { name: lock ? 'lock block' : 'write block', block, isSecret };
    await this.transport.transmitTag(`${head}${lock ? 1 : 0}${word(value)}${address(block)}`, about);
  }
}
