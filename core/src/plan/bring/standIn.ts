/** A simulated card with a plan on it, under keys that stand in for the plan's: each name has its own, always the same. */
import { blankFiles, FilesCard } from '../../chip/index.ts';
import { Aes, Cmac, littleEndian } from '../../cipher/index.ts';
import { FilesHost } from '../../host/index.ts';
import type { Plan } from '../schema/index.ts';
import { bringCard } from './bring.ts';
import { ringOf } from './ring.ts';

const CARD_KINDS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;
const UID = Uint8Array.of(0x04, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6);

/** 24 bytes made of a name; a key takes as many of them as its kind has. */
export function standInKey(name: string): Uint8Array {
  const mac = new Cmac(new Aes(new Uint8Array(16).fill(0x5a)));
  const text = [...name].flatMap((letter) => [...littleEndian(letter.codePointAt(0)!, 3)]);
  const bytes = new Uint8Array(24);
  for (const part of [0, 1])
    bytes.set(mac.of(Uint8Array.of(part, ...text)).subarray(0, part === 0 ? 16 : 8), 16 * part);
  return bytes;
}

/** The bytes of a plan's key by its name, as many as the kind has under which it stands in the plan. */
export function standInKeys({ card, applications }: Plan): (name: string) => Uint8Array {
  const kinds = new Map<string, number>();
  const note = (name: string | null, kind: keyof typeof CARD_KINDS) =>
    void (name !== null && kinds.set(name, kind === 'tdes3' ? 24 : 16));
  note(card.key, card.keyKind);
  for (const { keys, keyKind } of applications) for (const key of keys) note(key, keyKind);
  return (name) => standInKey(name).subarray(0, kinds.get(name) ?? 16);
}

const withoutFields = (plan: Plan): Plan => ({
  ...plan,
  applications: plan.applications.map((application) => ({
    ...application,
    files: application.files.map((file) => ('fields' in file ? { ...file, fields: [] } : file)),
  })),
});

type Draw = (count: number) => Uint8Array;

/** Of another card than those of the plan. */
const BLANK_UID = Uint8Array.of(0x04, 0x0b, 0x1a, 0x2c, 0x3d, 0x4e, 0x5f);

/** A blank that a plan could go onto, as it comes from the factory, and its UID. */
export function standInBlank({ generation, capacity, card: { keyKind } }: Plan): { card: FilesCard; uid: Uint8Array } {
  const card = new FilesCard(blankFiles({ generation, capacity, masterKey: CARD_KINDS[keyKind], uid: BLANK_UID }));
  return { card, uid: BLANK_UID };
}

/** Its files are empty. Throws what the card refuses: a plan without errors is refused nowhere. */
export async function standInCard(whole: Plan, draw: Draw): Promise<FilesCard> {
  const plan = withoutFields(whole);
  const {
    generation,
    capacity,
    card: { keyKind },
  } = plan;
  const card = new FilesCard(blankFiles({ generation, capacity, masterKey: CARD_KINDS[keyKind], uid: UID }));
  const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
  await bringCard(host, { plan, ring: ringOf(plan, standInKeys(plan)), known: { values: {} }, selected: UID });
  card.powerOff();
  return card;
}
