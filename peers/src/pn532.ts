/**
 * The frames of a PN532, a reader's chip on a serial line (its user manual, UM0701-02 §6.2 and §7), with a simulated card
 * in its field: so that a library which knows nothing of Raw Bits speaks to a card as to a real one. As many of its
 * commands as such a library uses; a card that is not there, or breaks off, is told as the chip does.
 */
import { FilesCard, SectorRefused, type SectorsCard, sectorFrame, selectionOf } from '@rawbits/core/chip';
import { joined } from '@rawbits/core/cipher';

const ACK = Uint8Array.of(0x00, 0x00, 0xff, 0x00, 0xff, 0x00);
const [FROM_HOST, TO_HOST] = [0xd4, 0xd5];
/** Status of an exchange (§7.1). */
const STATUS = { ok: 0x00, timeout: 0x01, framing: 0x05, authentication: 0x14 } as const;

export type Card = FilesCard | SectorsCard;
type Random = (count: number) => Uint8Array;

/** A frame around what it carries: length and sum with their complements (§6.2.1.1). */
export function frame(data: Uint8Array): Uint8Array {
  const sum = data.reduce((all, byte) => all + byte, 0);
  return joined([0x00, 0x00, 0xff, data.length, (256 - data.length) & 255], data, [(256 - (sum & 255)) & 255, 0x00]);
}

/** Takes the bytes of the line as they come and gives what goes back. */
export class Pn532 {
  private rest: Uint8Array = new Uint8Array(0);

  constructor(
    private readonly card: Card,
    private readonly random: Random,
  ) {}

  /** What is answered to these bytes: an ACK and a frame for each whole command. */
  take(bytes: Uint8Array): Uint8Array {
    this.rest = joined(this.rest, bytes);
    const answers: Uint8Array[] = [];
    for (let command = this.next(); command; command = this.next())
      answers.push(ACK, frame(joined([TO_HOST, (command[0]! + 1) & 255], this.carryOut(command))));
    return joined(...answers);
  }

  /** The next whole command of the host; what is none (waking up, an ACK, a broken frame) is passed over. */
  private next(): Uint8Array | undefined {
    for (;;) {
      const start = this.rest.findIndex((byte, i) => byte === 0x00 && this.rest[i + 1] === 0xff);
      if (start < 0) return undefined;
      const [length, complement] = [this.rest[start + 2], this.rest[start + 3]];
      if (length === undefined || complement === undefined) return undefined;
      const end = start + 4 + length + 2;
      const isCommand = ((length + complement) & 255) === 0 && length > 1;
      if (isCommand && this.rest.length < end) return undefined;
      const data = this.rest.subarray(start + 4, start + 4 + length);
      const sum = [...data, this.rest[end - 2]!].reduce((all, byte) => all + byte, 0);
      this.rest = this.rest.slice(isCommand ? end : start + 4);
      if (isCommand && (sum & 255) === 0 && data[0] === FROM_HOST) return data.slice(1);
    }
  }

  private carryOut(command: Uint8Array): Uint8Array {
    const data = command.subarray(1);
    switch (command[0]) {
      case 0x00:
        // Diagnose, communication line: what was sent.
        return data;
      case 0x02:
        // GetFirmwareVersion: PN532, version 1.6, all it can do.
        return Uint8Array.of(0x32, 0x01, 0x06, 0x07);
      case 0x06:
        // ReadRegister: a byte for each address of two.
        return new Uint8Array(data.length / 2);
      case 0x4a:
        return this.list(data);
      case 0x40:
        return this.exchange(data.subarray(1));
      case 0x42:
        return this.exchange(data);
      case 0x44:
      case 0x52:
      case 0x54:
        // InDeselect, InRelease, InSelect.
        this.card.powerOff();
        return Uint8Array.of(STATUS.ok);
      case 0x32:
        // RFConfiguration, item 1: the field goes on or off.
        if (data[0] === 0x01 && !(data[1]! & 1)) this.card.powerOff();
        return new Uint8Array(0);
      default:
        // SetParameters, SAMConfiguration, WriteRegister and the like have nothing to say.
        return new Uint8Array(0);
    }
  }

  /** InListPassiveTarget: the card, where type A at 106 kbit/s was asked for. */
  private list(data: Uint8Array): Uint8Array {
    this.card.powerOff();
    if (data[1] !== 0x00) return Uint8Array.of(0);
    // SENS_RES comes the high byte first; an ATS only from a card that has one (§7.3.5).
    const { uid, atqa, sak, ats } = selectionOf(this.card.memory, this.random)!;
    const about = joined([atqa[1]!, atqa[0]!, sak, uid.length], uid, ats);
    return joined([1, 1], about);
  }

  private exchange(data: Uint8Array): Uint8Array {
    if (this.card instanceof FilesCard) return joined([STATUS.ok], this.card.transmit(data, this.random));
    try {
      return joined([STATUS.ok], sectorFrame(this.card, data));
    } catch (error) {
      if (!(error instanceof SectorRefused)) throw error;
      return Uint8Array.of(data[0] === 0x60 || data[0] === 0x61 ? STATUS.authentication : STATUS.timeout);
    }
  }
}
