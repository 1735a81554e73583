/** A reader that listens for tags of a plan: at their rate and modulation, and for what it takes of what they send. */
import { z } from 'zod';
import { Bits } from '../../bits/index.ts';
import { bytesOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import { CARRIER, IDENTIFICATION, sendingOf, stringHeard, type TagMemory, tagHeard } from '../../lf/index.ts';
import { placed } from '../fields/index.ts';
import { TAG_BYTES, type TagPlan } from '../tags/index.ts';
import { cut, cutOf, cutShape } from './cut.ts';
import type { DoorReading } from './read.ts';

export const tagReaderSchema = z.discriminatedUnion('sends', [
  z.strictObject({ reads: z.literal('tag'), sends: z.literal('string'), rate: z.literal(CARRIER.rate) }),
  z.strictObject({
    reads: z.literal('tag'),
    sends: z.literal('identification'),
    rate: z.union([z.literal(32), z.literal(64)]),
    ...cutShape,
  }),
]);
export type TagReader = z.output<typeof tagReaderSchema>;

/** How the string of a tag is called where fields have names. */
export const STRING = 'string';

/** The settings for what a tag sends. Throws `door-field` where its plan has no such field. */
export function readerForTag({ sends }: TagPlan, called: string, bits?: number): TagReader {
  if (sends.is === 'string') return { reads: 'tag', sends: 'string', rate: CARRIER.rate as 50 };
  const place =
    placed(sends.fields).find(({ field }) => field.name === called) ??
    fail('door-field', `The plan has no field "${called}".`, { field: 'field' });
  return { reads: 'tag', sends: 'identification', rate: sends.rate, ...cutOf(place, bits) };
}

/** What a reader hears of a tag. */
export function readTagAtDoor(memory: TagMemory, settings: TagReader): DoorReading {
  const { sends, rate } = settings;
  const signal = sendingOf(memory);
  const modulation = sends === 'string' ? CARRIER.modulation : IDENTIFICATION.modulation;
  const listening = { rate, modulation };
  const step = `listen at RF/${rate}, ${modulation}`;
  const expected = sends === 'string' ? 'a carrier with a string' : 'an identification tag';
  if (!signal) return { steps: [{ step, holds: false, expected, came: 'a tag that sends nothing of its kind' }] };
  const nothing: DoorReading = {
    steps: [{ step, holds: false, expected, came: 'something else, or at another rate' }],
  };
  const held = { steps: [{ step, holds: true }] };
  if (settings.sends === 'string') {
    const string = stringHeard(signal, listening);
    return string === undefined ? nothing : { ...held, bits: Bits.fromBinary(string) };
  }
  const data = tagHeard(signal, listening);
  if (data === undefined) return nothing;
  const bytes = bytesOf(data.toString(16).padStart(2 * TAG_BYTES, '0'), 'data');
  return { ...held, bits: cut(bytes.subarray(settings.from, settings.from + settings.length), settings) };
}
