/** Where on a chip of a plan, of whichever kind, a credential stands, and how a reader is set up for it. */
import { z } from 'zod';
import { blankFiles, blankSectors, FilesCard, SectorsCard, sectorFrame } from '../../chip/index.ts';
import { fail } from '../../failure/index.ts';
import { FilesHost, SectorsHost, TagHost } from '../../host/index.ts';
import { blankTag } from '../../lf/index.ts';
import { bringCard, ringOf, standInKeys } from '../bring/index.ts';
import type { Known } from '../fields/index.ts';
import { type AnyPlan, CHIPS } from '../kinds/index.ts';
import { bringSectors, standInSectorKey } from '../sectors/index.ts';
import { bringTag, standInPassword, tagTransport } from '../tags/index.ts';
import { holdsCredential } from './cut.ts';
import { type DoorReading, readAtDoor } from './read.ts';
import { readerForSector, readSectorAtDoor, sectorReaderSchema } from './sectors.ts';
import { type FileReader, fileReaderSchema, readerFor } from './settings.ts';
import { readerForTag, readTagAtDoor, STRING, tagReaderSchema } from './tags.ts';

const field = z.string().min(1).max(80);
export const placeSchema = z.discriminatedUnion('in', [
  z.strictObject({
    in: z.literal('file'),
    application: z.string().regex(/^[0-9A-F]{6}$/),
    file: z.number().int().min(0).max(31),
    field,
  }),
  z.strictObject({ in: z.literal('sector'), sector: z.number().int().min(0).max(39), field }),
  z.strictObject({ in: z.literal('tag'), field }),
]);
export type CredentialPlace = z.output<typeof placeSchema>;

export const readerSettingsSchema = z.union([fileReaderSchema, sectorReaderSchema, tagReaderSchema]);
export type ReaderSettings = z.output<typeof readerSettingsSchema>;

export const readerByPlanSchema = z.union([
  readerSettingsSchema,
  /** The identifier by which the card is selected, as most readers do that were never set up. */
  z.strictObject({ reads: z.literal('uid') }),
]);
export type ReaderByPlan = z.output<typeof readerByPlanSchema>;

/** The fields of a plan that a reader could be set up for. */
export function placesOf(plan: AnyPlan): CredentialPlace[] {
  if (plan.kind === 'files')
    return plan.applications.flatMap(({ id, files }) =>
      files.flatMap((file) =>
        'fields' in file
          ? file.fields
              .filter(holdsCredential)
              .map(({ name }) => ({ in: 'file' as const, application: id, file: file.number, field: name }))
          : [],
      ),
    );
  if (plan.kind === 'sectors')
    return plan.sectors.flatMap(({ number, fields }) =>
      fields.filter(holdsCredential).map(({ name }) => ({ in: 'sector' as const, sector: number, field: name })),
    );
  if (plan.sends.is === 'string') return [{ in: 'tag', field: STRING }];
  return plan.sends.fields.filter(holdsCredential).map(({ name }) => ({ in: 'tag', field: name }));
}

/** How a place is told: `file 1 of 5A0001`. */
export const placeWords = (place: CredentialPlace): string =>
  place.in === 'file'
    ? `file ${place.file} of ${place.application}`
    : place.in === 'sector'
      ? `sector ${place.sector}`
      : 'what the tag sends';

/** The settings of a reader for a place; all bits of its field without `bits`. Throws `door-field`, `plan-kind`. */
export function readerAt(plan: AnyPlan, place: CredentialPlace, bits?: number): ReaderSettings {
  if (plan.kind === 'files' && place.in === 'file') return readerFor(plan, place, bits === undefined ? {} : { bits });
  if (plan.kind === 'sectors' && place.in === 'sector') return readerForSector(plan, place, bits);
  if (plan.kind === 'tag' && place.in === 'tag') return readerForTag(plan, place.field, bits);
  return fail('plan-kind', `The plan is for ${CHIPS[plan.kind]}: there is no ${placeWords(place)} on them.`);
}

/** The names of the keys that a reader has to be given. */
export function keysOfReader(settings: ReaderSettings): string[] {
  if (settings.reads === 'tag') return [];
  const names =
    settings.reads === 'sector' ? [settings.key] : [settings.key?.name ?? null, settings.tells?.name ?? null];
  return [...new Set(names.filter((name) => name !== null))];
}

const UID = Uint8Array.of(0x04, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6);
const SECTORS_UID = UID.subarray(0, 4);
const TRACE = [0xe0150000, 1] as const;
const CHIP_KINDS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;
type Draw = (count: number) => Uint8Array;

/**
 * What a card of a plan would deliver at a reader, before it is made: put on a simulated one and read there by the reader’s
 * settings. `known` is what the fields take from the card; keys are stand-ins on both sides, so what is found holds for the
 * right ones. Throws what keeps the card from being made, and `plan-kind` where the reader is for another kind.
 */
export async function deliveredAt(
  plan: AnyPlan,
  settings: ReaderSettings,
  known: Known,
  draw: Draw,
): Promise<DoorReading> {
  if (plan.kind === 'files' && settings.reads === 'file') return fromFile(plan, settings, known, draw);
  if (plan.kind === 'sectors' && settings.reads === 'sector') {
    const card = new SectorsCard(blankSectors(plan.size, SECTORS_UID));
    const host = new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, SECTORS_UID);
    await bringSectors(host, { plan, ring: (name) => ({ now: standInSectorKey(name), before: [] }), known });
    card.powerOff();
    return readSectorAtDoor(host, settings, standInSectorKey);
  }
  if (plan.kind === 'tag' && settings.reads === 'tag') {
    const tag = blankTag(TRACE);
    const ring = (name: string) => ({ now: standInPassword(name), before: [] });
    await bringTag(new TagHost(tagTransport(tag)), { plan, ring, known });
    return readTagAtDoor(tag, settings);
  }
  return fail('plan-kind', `The reader is set up for another kind of card: the plan is for ${CHIPS[plan.kind]}.`);
}

async function fromFile(
  plan: Extract<AnyPlan, { kind: 'files' }>,
  settings: FileReader,
  known: Known,
  draw: Draw,
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
