/** Putting a plan on a blank file-system card, by the commands of its host. Keys come from outside, by their names. */
import type { FilesHost, HostKey, HostKeyKind } from '../../host/index.ts';
import { bytesOfFields, type Known } from '../fields/index.ts';
import type { Plan, PlanApplication, PlanFile } from '../schema/index.ts';

/** The bytes of a key by its name; those of a slot without a name are the factory's. */
export type KeyBytes = (name: string) => Uint8Array;

const FACTORY_BYTES = { aes128: 16, tdes2: 16, tdes3: 24 } as const;
const BIT = { masterChangeable: 1, freeDirectory: 2, freeCreate: 4, changeable: 8 } as const;

export const factoryKey = (kind: HostKeyKind): HostKey => ({
  kind,
  bytes: new Uint8Array(FACTORY_BYTES[kind]),
  version: 0,
});

/** The settings of a level as the chip has them: four bits, and above them who changes keys. */
export function settingsByte(
  settings: { [K in keyof typeof BIT]: boolean },
  changeKeys: PlanApplication['settings']['changeKeys'] = 0,
): number {
  const low = Object.entries(BIT).reduce((all, [name, bit]) => all | (settings[name as keyof typeof BIT] ? bit : 0), 0);
  const high = changeKeys === 'itself' ? 0xe : changeKeys === 'never' ? 0xf : changeKeys;
  return (high << 4) | low;
}

/** Settings under which everything can still be done by key 0. */
const WHILE_BUILDING = settingsByte({
  masterChangeable: true,
  freeDirectory: true,
  freeCreate: false,
  changeable: true,
});

export const keyOf = (kind: HostKeyKind, name: string | null, bytes: KeyBytes): HostKey =>
  name === null ? factoryKey(kind) : { kind, bytes: bytes(name), version: 1 };

/** How one authenticates with a key of a kind: the older ways, which every generation knows. */
export const wayOf = (kind: HostKeyKind) => (kind === 'aes128' ? ('aes' as const) : ('iso' as const));

/** Rights under which key 0 can do everything, until a file has what belongs in it. */
const BUILDING: PlanFile['rights'] = { read: 0, write: 0, both: 0, change: 0 };

/**
 * Puts a whole plan on a blank card: `known` is what its fields take from the card. What freezes something comes last, so
 * that a card that was torn away before can be begun anew.
 */
export async function encodePlan(
  host: FilesHost,
  plan: Plan,
  bytes: KeyBytes,
  known: Known = { values: {} },
): Promise<void> {
  const { card, applications } = plan;
  const blank = factoryKey(card.keyKind);
  await host.select();
  await host.authenticate(wayOf(card.keyKind), 0, blank);
  for (const { id, keyKind, keys } of applications)
    await host.createApplication(Number.parseInt(id, 16), WHILE_BUILDING, keyKind, keys.length);
  for (const application of applications) await fill(host, application, bytes, known);
  await host.select();
  await host.authenticate(wayOf(card.keyKind), 0, blank);
  if (card.key !== null) {
    const own = keyOf(card.keyKind, card.key, bytes);
    await host.changeKey(0, own, blank, true);
    await host.authenticate(wayOf(card.keyKind), 0, own);
  }
  await host.changeKeySettings(settingsByte(card.settings));
}

async function fill(host: FilesHost, application: PlanApplication, bytes: KeyBytes, known: Known): Promise<void> {
  const { id, keyKind, keys, files, settings } = application;
  const factory = factoryKey(keyKind);
  await host.select(Number.parseInt(id, 16));
  await host.authenticate(wayOf(keyKind), 0, factory);
  for (const file of files) await createFile(host, file, known);
  for (const [number, name] of keys.entries())
    if (number > 0 && name !== null) await host.changeKey(number, keyOf(keyKind, name, bytes), factory);
  const master = keyOf(keyKind, keys[0]!, bytes);
  if (keys[0] !== null) {
    await host.changeKey(0, master, factory);
    await host.authenticate(wayOf(keyKind), 0, master);
  }
  await host.changeKeySettings(settingsByte(settings, settings.changeKeys));
}

/** A file with fields gets them before it gets its rights. */
async function createFile(host: FilesHost, file: PlanFile, known: Known): Promise<void> {
  const { kind, number, mode, rights } = file;
  if (kind === 'value') return host.createValue(number, mode, rights, file);
  if (kind === 'linear' || kind === 'cyclic')
    return host.createRecords(kind, number, mode, rights, file.size, file.records);
  if (file.fields.length === 0) return host.createData(kind, number, mode, rights, file.size);
  await host.createData(kind, number, mode, BUILDING, file.size);
  await host.write(number, 0, bytesOfFields(file.fields, file.size, known), mode);
  if (kind === 'backup') await host.commit();
  return host.changeFileSettings(number, mode, rights, false);
}
