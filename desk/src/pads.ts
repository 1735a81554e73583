/**
 * Card readers as pads: each reader that is plugged in is one, called by its name. What goes to a card goes as it comes; keys
 * of file-system cards never come here: the server has the session, and what passes is enciphered for the card.
 */
import type { WireAnswer } from '@rawbits/api';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { fail } from '@rawbits/core/failure';
import { PcscTransport, readersNow } from './pcscTransport.ts';

/** A name that goes into addresses. */
export const padNameOf = (reader: string): string =>
  reader
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40) || 'reader';

/** Storage cards by the name in their ATR (PC/SC part 3, supplement: 00 01 and 00 02), and the SAK that goes with it. */
const STORAGE = /^3B8F8001804F0CA000000306(?:..)(....)/;
const SAK: Record<string, number> = { '0001': 0x08, '0002': 0x18 };
const SPEAKS_APDUS = 0x20;

interface Pad {
  reader: string;
  transport: PcscTransport;
  holdsCard: boolean;
  /** Counts how often a card came or went. */
  laid: number;
}

export class Pads {
  private readonly pads = new Map<string, Pad>();

  /** Looks which readers there are and what lies on them. */
  async look(): Promise<void> {
    const readers = await readersNow();
    const names = new Set(readers.map(({ name }) => padNameOf(name)));
    for (const id of this.pads.keys()) if (!names.has(id)) this.pads.delete(id);
    for (const { name, holdsCard } of readers) {
      const id = padNameOf(name);
      const there = this.pads.get(id) ?? {
        reader: name,
        transport: new PcscTransport(name),
        holdsCard: false,
        laid: 0,
      };
      if (there.holdsCard !== holdsCard) there.laid++;
      this.pads.set(id, Object.assign(there, { holdsCard }));
    }
  }

  get offered(): { id: string; name: string }[] {
    return [...this.pads].map(([id, { reader }]) => ({ id, name: reader.slice(0, 120) }));
  }

  private of(id: string | undefined): Pad {
    const pad = id === undefined ? [...this.pads.values()][0] : this.pads.get(id);
    return (
      pad ??
      fail('no-pad', id === undefined ? 'No card reader is plugged in here.' : `The card reader "${id}" is gone.`)
    );
  }

  async lies(id: string | undefined): Promise<WireAnswer<'pad'>> {
    await this.look();
    const { holdsCard, laid } = this.of(id);
    return { cards: holdsCard ? ['card'] : [], laid };
  }

  async connect(id: string | undefined): Promise<WireAnswer<'padConnect'>> {
    const { transport } = this.of(id);
    const { uid, ats } = await transport.connect();
    const storage = STORAGE.exec(hexOf(transport.atr))?.[1];
    const sak = storage === undefined ? (ats.length > 0 ? SPEAKS_APDUS : 0) : (SAK[storage] ?? 0);
    return { uid: hexOf(uid), ats: hexOf(ats), atqa: '', sak, isTag: false };
  }

  async transmit(id: string | undefined, apdu: string): Promise<WireAnswer<'padTransmit'>> {
    return { answer: hexOf(await this.of(id).transport.transmit(bytesOf(apdu, 'apdu'))) };
  }

  async transmitRaw(id: string | undefined, frame: string): Promise<WireAnswer<'padTransmitRaw'>> {
    return { answer: hexOf(await this.of(id).transport.transmitRaw(bytesOf(frame, 'frame'))) };
  }

  disconnect(id: string | undefined): Promise<void> {
    return this.of(id).transport.disconnect();
  }
}
