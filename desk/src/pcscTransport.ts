/**
 * The way to a card on a real reader: PC/SC, through the `smartcard` package, which is loaded when it is first used and may
 * be missing where its library was. Identifier, ATS, keys and blocks of sector cards go by the reader's own commands (PC/SC
 * part 3, §3.2.2.1: GET DATA, LOAD KEYS, GENERAL AUTHENTICATE, READ BINARY, UPDATE BINARY); APDUs go to the card as they are.
 */
import { joined } from '@rawbits/core/cipher';
import { fail } from '@rawbits/core/failure';
import type { Transport } from '@rawbits/core/host';

/** What of the package is used. */
interface Pcsc {
  Context: new () => { listReaders(): PcscReader[]; close(): void };
  SCARD_SHARE_EXCLUSIVE: number;
  SCARD_PROTOCOL_T0: number;
  SCARD_PROTOCOL_T1: number;
  SCARD_RESET_CARD: number;
  SCARD_STATE_PRESENT: number;
}
interface PcscReader {
  name: string;
  /** SCARD_STATE_ flags. */
  state: number;
  atr: Uint8Array | null;
  connect(share: number, protocol: number): Promise<PcscCard>;
}
interface PcscCard {
  atr: Uint8Array | null;
  transmit(command: number[], options?: { maxRecvLength?: number }): Promise<Uint8Array>;
  disconnect(disposition?: number): void;
}

const DONE = 0x9000;
const NAMES: Record<number, string> = {
  25344: 'the card did not answer as it should',
  26880: 'the reader does not do this',
  27010: 'the key is not right, or not allowed',
  27011: 'the key was not loaded',
  27265: 'the reader does not know this',
  27266: 'the card has no such block',
};

async function load(): Promise<Pcsc> {
  try {
    return (await import('smartcard')) as unknown as Pcsc;
  } catch {
    return fail(
      'pcsc-missing',
      'Real card readers cannot be used: the package "smartcard" is not there.',
      undefined,
      'Install libpcsclite-dev, g++ and make, then the packages again (npm ci).',
    );
  }
}

/** The names of the readers that there are, and whether a card lies on each. Throws `pcsc` where their service does not run. */
export async function readersNow(): Promise<{ name: string; holdsCard: boolean }[]> {
  const pcsc = await load();
  const context = contextOf(pcsc);
  try {
    return context
      .listReaders()
      .map(({ name, state }) => ({ name, holdsCard: (state & pcsc.SCARD_STATE_PRESENT) !== 0 }));
  } finally {
    context.close();
  }
}

/** The names of the readers that there are. */
export const readersThere = async (): Promise<string[]> => (await readersNow()).map(({ name }) => name);

function contextOf(pcsc: Pcsc) {
  try {
    return new pcsc.Context();
  } catch (error) {
    return fail(
      'pcsc',
      `The service of the card readers does not answer (${(error as Error).message}).`,
      undefined,
      'Start pcscd.',
    );
  }
}

export class PcscTransport implements Transport {
  private context: ReturnType<typeof contextOf> | undefined;
  private card: PcscCard | undefined;
  private pcsc: Pcsc | undefined;

  /** `reader` is its name, or a part of it; the only reader there is where none is given. */
  constructor(private readonly reader = '') {}

  /** As the reader told when the card was selected; it says what kind of card it is (PC/SC part 3, §3.1.3.2.3). */
  atr = new Uint8Array(0);

  async connect(): Promise<{ uid: Uint8Array; ats: Uint8Array }> {
    await this.disconnect();
    const pcsc = (this.pcsc ??= await load());
    this.context = contextOf(pcsc);
    const readers = this.context.listReaders().filter(({ name }) => name.includes(this.reader));
    const [reader] = readers;
    if (!reader) return fail('no-reader', `There is no card reader${this.reader && ` "${this.reader}"`}.`);
    if (readers.length > 1)
      return fail('readers', `There are ${readers.length} card readers.`, undefined, 'Say which by its name.');
    this.card = await reader
      .connect(pcsc.SCARD_SHARE_EXCLUSIVE, pcsc.SCARD_PROTOCOL_T0 | pcsc.SCARD_PROTOCOL_T1)
      .catch((error: Error) => fail('no-card', `There is no card on ${reader.name} (${error.message}).`));
    this.atr = new Uint8Array(this.card.atr ?? []);
    const uid = await this.ask('the identifier', [0xff, 0xca, 0x00, 0x00, 0x00]);
    const { status, data } = await this.exchange([0xff, 0xca, 0x01, 0x00, 0x00]);
    return { uid, ats: status === DONE ? data : new Uint8Array(0) };
  }

  private async exchange(command: number[]): Promise<{ status: number; data: Uint8Array }> {
    const answer = await this.transmit(Uint8Array.from(command));
    return { status: (answer.at(-2)! << 8) | answer.at(-1)!, data: answer.subarray(0, -2) };
  }

  /** A command of the reader's own; throws `refused` with its status. */
  private async ask(what: string, command: number[]): Promise<Uint8Array> {
    const { status, data } = await this.exchange(command);
    if (status === DONE) return data;
    const hex = status.toString(16).toUpperCase().padStart(4, '0');
    return fail('refused', `The reader refuses ${what}: ${NAMES[status] ?? 'it does not say why'} (status ${hex}).`);
  }

  async transmit(apdu: Uint8Array): Promise<Uint8Array> {
    if (!this.card) return fail('card-gone', 'There is no card connected.', undefined, 'Lay it on and begin anew.');
    try {
      const answer = new Uint8Array(await this.card.transmit([...apdu]));
      return answer.length >= 2 ? answer : fail('card-gone', 'The card answered nothing.');
    } catch (error) {
      throw (error as { failure?: unknown }).failure
        ? error
        : fail(
            'card-gone',
            `The card is gone (${(error as Error).message}).`,
            undefined,
            'Lay it on again and begin anew.',
          );
    }
  }

  /** A frame of a sector card, by the reader's command for it. Readers have none for values that is a standard. */
  async transmitRaw(frame: Uint8Array): Promise<Uint8Array> {
    const [code, block] = [frame[0]!, frame[1]!];
    switch (code) {
      case 0x60:
      case 0x61:
        await this.ask('the key', [...joined([0xff, 0x82, 0x00, 0x00, 0x06], frame.subarray(2, 8))]);
        return this.ask('authentication', [0xff, 0x86, 0x00, 0x00, 0x05, 0x01, 0x00, block, code, 0x00]);
      case 0x30:
        return this.ask('reading', [0xff, 0xb0, 0x00, block, 0x10]);
      case 0xa0:
        return this.ask('writing', [...joined([0xff, 0xd6, 0x00, block, 0x10], frame.subarray(2))]);
      default:
        return fail('not-by-reader', 'PC/SC has no command for this frame.', undefined, 'Write the value as a block.');
    }
  }

  async disconnect(): Promise<void> {
    try {
      this.card?.disconnect(this.pcsc?.SCARD_RESET_CARD);
    } catch {
      // It is gone already.
    }
    this.card = undefined;
    this.context?.close();
    this.context = undefined;
  }
}
