/**
 * The commands of a sector card as frames (the chip's data sheet, "Command overview"): authentication with key A 60 and
 * key B 61, read 30, write A0, decrement C0, increment C1, restore C2, transfer B0. An authentication is written as
 * readers are told it: code, block, the key's six bytes and four of the UID; the cipher between stays outside.
 */
import { SectorRefused, type SectorsCard } from './card.ts';

/** The answer to a frame; empty where the card only acknowledges. Throws `SectorRefused`. */
export function sectorFrame(card: SectorsCard, frame: Uint8Array): Uint8Array {
  const [code, block] = [frame[0], frame[1]];
  if (block === undefined) throw new SectorRefused('length');
  const rest = frame.subarray(2);
  const amount = () => {
    if (rest.length !== 4) throw new SectorRefused('length');
    return rest[0]! | (rest[1]! << 8) | (rest[2]! << 16) | (rest[3]! << 24);
  };
  switch (code) {
    case 0x60:
    case 0x61:
      if (rest.length < 6) throw new SectorRefused('length');
      card.authenticate(block, code === 0x60 ? 'A' : 'B', rest.subarray(0, 6));
      break;
    case 0x30:
      return card.read(block);
    case 0xa0:
      card.write(block, rest);
      break;
    case 0xc0:
      card.change(block, 'decrement', amount());
      break;
    case 0xc1:
      card.change(block, 'increment', amount());
      break;
    case 0xc2:
      card.change(block, 'restore');
      break;
    case 0xb0:
      card.transfer(block);
      break;
    default:
      throw new SectorRefused('not allowed');
  }
  return new Uint8Array(0);
}
