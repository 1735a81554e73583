/** What a card of a plan would deliver at a reader, before it is made: put on a simulated card and read there by the reader’s settings. */
import { blankFiles, FilesCard } from '../../chip/index.ts';
import { FilesHost } from '../../host/index.ts';
import { bringCard, ringOf, standInKeys } from '../bring/index.ts';
import type { Known } from '../fields/index.ts';
import type { Plan } from '../schema/index.ts';
import { type DoorReading, readAtDoor } from './read.ts';
import type { FileReader } from './settings.ts';

const UID = Uint8Array.of(0x04, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6);
const CHIP_KINDS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;

/** `known` is what the fields take from the card; keys are stand-ins on both sides, so what is found holds for the right ones. */
export async function deliveredAt(
  plan: Plan,
  settings: FileReader,
  known: Known,
  draw: (count: number) => Uint8Array,
): Promise<DoorReading> {
  const { generation, capacity, card } = plan;
  const chip = new FilesCard(blankFiles({ generation, capacity, masterKey: CHIP_KINDS[card.keyKind], uid: UID }));
  const host = new FilesHost({ transmit: async (apdu) => chip.transmit(apdu, draw) }, draw);
  const keys = standInKeys(plan);
  await bringCard(host, { plan, ring: ringOf(plan, keys), known, selected: UID });
  chip.powerOff();
  // Stand-ins are the same on all cards, so nothing is made from a UID here.
  const plain = (key: FileReader['key']) => key && { ...key, each: 'all' as const };
  const { key, tells: _tells, ...rest } = settings;
  return readAtDoor(host, { ...rest, ...(key && { key: plain(key)! }) }, UID, (name) => ({
    kind: settings.keyKind,
    bytes: keys(name),
    version: 1,
  }));
}
