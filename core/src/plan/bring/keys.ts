/** Keys and settings of a level as the chip has them. */
import type { HostKey, HostKeyKind } from '../../host/index.ts';
import type { PlanApplication } from '../schema/index.ts';

/** The bytes of a key by its name; those of a slot without a name are the factory's. */
export type KeyBytes = (name: string) => Uint8Array;

const FACTORY_BYTES = { aes128: 16, tdes2: 16, tdes3: 24 } as const;
const BIT = { masterChangeable: 1, freeDirectory: 2, freeCreate: 4, changeable: 8 } as const;

export const factoryKey = (kind: HostKeyKind): HostKey => ({
  kind,
  bytes: new Uint8Array(FACTORY_BYTES[kind]),
  version: 0,
});

type LevelSettings = { [K in keyof typeof BIT]: boolean };

/** The settings of a level as the chip has them: four bits, and above them who changes keys. */
export function settingsByte(
  settings: LevelSettings,
  changeKeys: PlanApplication['settings']['changeKeys'] = 0,
): number {
  const low = Object.entries(BIT).reduce(
    (all, [name, bit]) => all | (settings[name as keyof LevelSettings] ? bit : 0),
    0,
  );
  const high = changeKeys === 'itself' ? 0xe : changeKeys === 'never' ? 0xf : changeKeys;
  return (high << 4) | low;
}

/** The same from the chip's byte. */
export function settingsIn(byte: number): PlanApplication['settings'] {
  const high = byte >> 4;
  return {
    masterChangeable: (byte & BIT.masterChangeable) !== 0,
    freeDirectory: (byte & BIT.freeDirectory) !== 0,
    freeCreate: (byte & BIT.freeCreate) !== 0,
    changeable: (byte & BIT.changeable) !== 0,
    changeKeys: high === 0xe ? 'itself' : high === 0xf ? 'never' : high,
  };
}

/** Settings under which everything can still be done by key 0. */
export const WHILE_BUILDING = settingsByte({
  masterChangeable: true,
  freeDirectory: true,
  freeCreate: false,
  changeable: true,
});

export const keyOf = (kind: HostKeyKind, name: string | null, bytes: KeyBytes): HostKey =>
  name === null ? factoryKey(kind) : { kind, bytes: bytes(name), version: 1 };

/** How one authenticates with a key of a kind: the older ways, which every generation knows. */
export const wayOf = (kind: HostKeyKind) => (kind === 'aes128' ? ('aes' as const) : ('iso' as const));
