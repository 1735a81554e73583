/**
 * A reader at a door reading a card by its settings: each step with whether it held, and where it did not, what the reader
 * wanted and what the card had instead. The same for a reader of the rig and for telling beforehand who would be let in.
 */
import type { Bits } from '../../bits/index.ts';
import { bytesOf } from '../../cipher/index.ts';
import { RawBitsError } from '../../failure/index.ts';
import { CardRefusal, type FilesHost, type HostKey } from '../../host/index.ts';
import { Diversifier, diversifyData, withVersion } from '../../key/index.ts';
import { wayOf } from '../bring/index.ts';
import { cut } from './cut.ts';
import type { FileReader } from './settings.ts';

export interface DoorStep {
  step: string;
  holds: boolean;
  /** What the reader wanted, and what came. */
  expected?: string;
  came?: string;
}

export interface DoorReading {
  steps: DoorStep[];
  /** What goes on over the line; undefined where a step did not hold. */
  bits?: Bits;
}

/** A key as a reader has it: not yet made for a card. */
export type ReaderKey = Pick<HostKey, 'kind' | 'bytes'> & { version: number };

/** The key of one card, or the same for all; with its version as the card tells it. */
export function doorKey(
  { kind, bytes, version }: ReaderKey,
  { each, system }: { each: 'card' | 'all'; system: string },
  uid: Uint8Array,
  application: string | null,
): HostKey {
  const id = application === null ? new Uint8Array(0) : bytesOf(application, 'application');
  const own =
    each === 'card' ? new Diversifier(kind, bytes).keyFor(diversifyData(uid, id, bytesOf(system, 'system'))) : bytes;
  return { kind, bytes: kind === 'aes128' ? own : withVersion(own, version), version };
}

const NO_KEY = 0;
const CAME: Record<string, string> = {
  authentication: 'another key',
  'not-the-card': 'a card that does not know the key',
  'application-missing': 'no such application',
  'file-missing': 'no such file',
  boundary: 'a file that ends before',
  'key-missing': 'no key of this number',
  'not-permitted': 'a file that nobody reads',
  'answer-changed': 'bytes that are not protected so',
  length: 'bytes that are not protected so',
  'card-gone': 'nothing: the card was gone',
};

/** Reads by settings; `key` gives the reader's keys by the plan's names. What is no refusal of the card is thrown. */
export async function readAtDoor(
  host: FilesHost,
  settings: FileReader,
  selected: Uint8Array,
  key: (name: string) => ReaderKey | undefined,
): Promise<DoorReading> {
  const steps: DoorStep[] = [];
  /** Takes a step; false where the card refused it. */
  const take = async (step: string, expected: string, work: () => Promise<unknown>): Promise<boolean> => {
    try {
      await work();
      steps.push({ step, holds: true });
      return true;
    } catch (error) {
      if (!(error instanceof RawBitsError)) throw error;
      steps.push({ step, holds: false, expected, came: CAME[error.code] ?? error.message });
      return false;
    }
  };
  const { application, file, from, length, mode } = settings;
  const number = Number.parseInt(application, 16);
  if (!(await take(`select application ${application}`, 'this application', () => host.select(number))))
    return { steps };
  let uid = selected;
  for (const [use, called] of [
    [settings.tells, 'learn the UID'],
    [settings.key, undefined],
  ] as const) {
    if (!use) continue;
    const ownKey = keyFor(use, settings, key, uid);
    const step = called ?? `authenticate by key ${use.slot}`;
    const told = await versionTold(host, use.slot);
    const entered = await take(step, wantedKey(ownKey), async () => {
      await host.authenticate(wayOf(settings.keyKind), use.slot, ownKey);
      if (called) uid = await host.uid();
    });
    if (!entered) {
      const last = steps.at(-1)!;
      if (told !== undefined && told !== ownKey.version && last.came === CAME.authentication)
        last.came = `${told === NO_KEY ? 'a key' : 'the key'} of version ${told}`;
      return { steps };
    }
  }
  let bytes = new Uint8Array(0);
  const read = await take(`read file ${file}`, `bytes ${from} to ${from + length - 1}, ${mode}`, async () => {
    bytes = new Uint8Array(await host.read(file, from, length, mode));
  });
  if (!read) return { steps };
  return { steps, bits: cut(bytes, settings) };
}

const wantedKey = ({ kind, version }: HostKey): string => `its key (${kind}), version ${version}`;

function keyFor(
  use: NonNullable<FileReader['key']>,
  settings: FileReader,
  key: (name: string) => ReaderKey | undefined,
  uid: Uint8Array,
): HostKey {
  const length = settings.keyKind === 'tdes3' ? 24 : 16;
  if (use.name === null) return { kind: settings.keyKind, bytes: new Uint8Array(length), version: 0 };
  const own = key(use.name);
  if (!own)
    throw new RawBitsError({
      code: 'reader-key',
      message: `The reader has no key "${use.name}".`,
      hint: 'Set it up anew.',
    });
  return doorKey(own, use, uid, settings.application);
}

/** What a card says of a key's version to anybody; undefined where it does not. */
async function versionTold(host: FilesHost, slot: number): Promise<number | undefined> {
  try {
    return await host.keyVersion(slot);
  } catch (error) {
    if (error instanceof CardRefusal) return undefined;
    throw error;
  }
}
