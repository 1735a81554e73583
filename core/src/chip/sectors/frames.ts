/**
 * The commands of a sector card as frames (the chip's data sheet, "Command overview"): authentication with key A 60 and
 * key B 61, read 30, write A0, decrement C0, increment C1, restore C2, transfer B0. An authentication is written as
 * readers are told it: code, block, the key's six bytes and four of the UID; the cipher between stays outside.
 */
import type { KeyName } from './access.ts';
import { SectorRefused, type SectorsCard } from './card.ts';

/** Every command that a sector card has, with its code. */
export const SECTOR_COMMANDS = {
  'authenticate A': 0x60,
  'authenticate B': 0x61,
  read: 0x30,
  write: 0xa0,
  decrement: 0xc0,
  increment: 0xc1,
  restore: 0xc2,
  transfer: 0xb0,
} as const;
export type SectorCommand = keyof typeof SECTOR_COMMANDS;
const NAMES = new Map<number, SectorCommand>(
  (Object.keys(SECTOR_COMMANDS) as SectorCommand[]).map((name) => [SECTOR_COMMANDS[name], name]),
);

/** The answer to a frame; empty where the card only acknowledges. Throws `SectorRefused`. */
export function sectorFrame(card: SectorsCard, frame: Uint8Array): Uint8Array {
  const [code, block] = [frame[0], frame[1]];
  if (block === undefined) throw new SectorRefused('length');
  const name = NAMES.get(code!);
  if (name === undefined) throw new SectorRefused('not allowed');
  return CARRY_OUT[name](card, block, frame.subarray(2)) ?? new Uint8Array(0);
}

/** Four bytes, the lowest first, unsigned. */
function amountIn(rest: Uint8Array): number {
  if (rest.length !== 4) throw new SectorRefused('length');
  return (rest[0]! | (rest[1]! << 8) | (rest[2]! << 16) | (rest[3]! << 24)) >>> 0;
}
const authenticate = (key: KeyName) => (card: SectorsCard, block: number, rest: Uint8Array) => {
  if (rest.length < 6) throw new SectorRefused('length');
  card.authenticate(block, key, rest.subarray(0, 6));
  return undefined;
};
const CARRY_OUT: Record<SectorCommand, (card: SectorsCard, block: number, rest: Uint8Array) => Uint8Array | undefined> =
  {
    'authenticate A': authenticate('A'),
    'authenticate B': authenticate('B'),
    read: (card, block) => card.read(block),
    write: (card, block, rest) => void card.write(block, rest),
    decrement: (card, block, rest) => void card.change(block, 'decrement', amountIn(rest)),
    increment: (card, block, rest) => void card.change(block, 'increment', amountIn(rest)),
    restore: (card, block) => void card.change(block, 'restore'),
    transfer: (card, block) => void card.transfer(block),
  };
