/**
 * A simulated card behind Debian's virtual PC/SC reader (its documentation: TCP; a length of two bytes, the high one first,
 * then the APDU; lengths of one mean power off 0, on 1, reset 2, and 4 asks for the ATR). What a contactless reader does by
 * itself is done here: ATR and pseudo-APDUs of PC/SC part 3 (§3.1.3.2.3, §3.2.2.1).
 */
import { FilesCard, SectorRefused, type SectorsCard, sectorFrame, selectionOf } from '@rawbits/core/chip';
import { joined } from '@rawbits/core/cipher';

const POWER_OFF = 0;
const ASKS_ATR = 4;
const OK = [0x90, 0x00];

type Draw = (count: number) => Uint8Array;

/** The ATR of a card by the historical bytes of its ATS, or by its standard and name where it has none. */
function atrOf(ats: Uint8Array, is4K: boolean): Uint8Array {
  // TA, TB and TC stand before the historical bytes where T0 says so (ISO/IEC 14443-4 §5.2.3).
  const skipped = ats.length > 1 ? 2 + ((ats[1]! >> 4) & 1) + ((ats[1]! >> 5) & 1) + ((ats[1]! >> 6) & 1) : 0;
  const historical =
    ats.length > 0
      ? ats.subarray(skipped)
      : Uint8Array.of(0x80, 0x4f, 0x0c, 0xa0, 0, 0, 0x03, 0x06, 0x03, 0x00, is4K ? 0x02 : 0x01, 0, 0, 0, 0);
  const body = joined([0x80 | historical.length, 0x80, 0x01], historical);
  return joined([0x3b], body, [body.reduce((all, byte) => all ^ byte, 0)]);
}

export class VirtualReader {
  private waiting: Uint8Array = new Uint8Array(0);
  private key: Uint8Array = new Uint8Array(6);

  constructor(
    private readonly card: FilesCard | SectorsCard,
    private readonly draw: Draw,
  ) {}

  /** Takes bytes of the stream; gives what is to be sent. */
  take(bytes: Uint8Array): Uint8Array {
    this.waiting = joined(this.waiting, bytes);
    let out: Uint8Array = new Uint8Array(0);
    while (this.waiting.length >= 2) {
      const length = (this.waiting[0]! << 8) | this.waiting[1]!;
      if (this.waiting.length < 2 + length) break;
      const message = this.waiting.subarray(2, 2 + length);
      this.waiting = this.waiting.subarray(2 + length);
      const answer = length === 1 ? this.control(message[0]!) : this.apdu(message);
      if (answer) out = joined(out, [answer.length >> 8, answer.length & 0xff], answer);
    }
    return out;
  }

  private control(what: number): Uint8Array | undefined {
    if (what === ASKS_ATR) {
      const { memory } = this.card;
      return atrOf(selectionOf(memory, this.draw)!.ats, memory.kind === 'sectors' && memory.size === '4K');
    }
    if (what === POWER_OFF) this.card.powerOff();
    return undefined;
  }

  private apdu(apdu: Uint8Array): Uint8Array {
    if (apdu[0] === 0xff) return this.ownCommand(apdu);
    return this.card instanceof FilesCard ? this.card.transmit(apdu, this.draw) : Uint8Array.of(0x6a, 0x81);
  }

  private ownCommand(apdu: Uint8Array): Uint8Array {
    const selection = selectionOf(this.card.memory, this.draw)!;
    if (apdu[1] === 0xca) {
      const data = apdu[2] === 0x00 ? selection.uid : selection.ats;
      return data.length > 0 ? joined(data, OK) : Uint8Array.of(0x6a, 0x81);
    }
    if (this.card instanceof FilesCard) return Uint8Array.of(0x6a, 0x81);
    if (apdu[1] === 0x82) {
      this.key = new Uint8Array(apdu.subarray(5, 11));
      return Uint8Array.from(OK);
    }
    const frame = this.frameOf(apdu);
    if (!frame) return Uint8Array.of(0x6a, 0x81);
    try {
      return joined(sectorFrame(this.card, frame), OK);
    } catch (error) {
      if (!(error instanceof SectorRefused)) throw error;
      return error.why === 'no such block' ? Uint8Array.of(0x6a, 0x82) : Uint8Array.of(0x69, 0x82);
    }
  }

  private frameOf(apdu: Uint8Array): Uint8Array | undefined {
    const block = apdu[3]!;
    switch (apdu[1]) {
      case 0x86:
        return joined([apdu[8]!, apdu[7]!], this.key);
      case 0xb0:
        return Uint8Array.of(0x30, block);
      case 0xd6:
        return joined([0xa0, block], apdu.subarray(5));
      default:
        return undefined;
    }
  }
}
