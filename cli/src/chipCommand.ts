/** What `rawbits chip` does: one simulated card for the run, a line in and a line out. */
import {
  blankFiles,
  blankSectors,
  dumpFiles,
  dumpSectors,
  FilesCard,
  SectorRefused,
  SectorsCard,
} from '@rawbits/core/chip';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { fail } from '@rawbits/core/failure';
import { z } from 'zod';
import { directoryInput, directoryLine } from './keyCommand.ts';

const hex = z.string().max(4096);
const block = z.number().int().min(0).max(255);

const blankInput = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('files'),
    generation: z.union([z.literal(1), z.literal(2), z.literal(3)]).default(2),
    masterKey: z.enum(['aes128', 'tdes2', 'tdes3']).default('aes128'),
    uid: hex.default('04A1B2C3D4E5F6'),
  }),
  z.strictObject({
    kind: z.literal('sectors'),
    size: z.enum(['1K', '4K']).default('1K'),
    uid: hex.default('A1B2C3D4'),
  }),
]);

const lineInput = z.union([
  z.strictObject({ blank: blankInput }),
  z.strictObject({ apdu: hex }),
  z.strictObject({ random: hex }),
  z.strictObject({ auth: z.strictObject({ block, key: z.enum(['A', 'B']), value: hex }) }),
  z.strictObject({ read: block }),
  z.strictObject({ write: block, data: hex }),
  z.strictObject({ increment: block, by: z.number().int().min(0).max(0xffffffff) }),
  z.strictObject({ decrement: block, by: z.number().int().min(0).max(0xffffffff) }),
  z.strictObject({ restore: block }),
  z.strictObject({ transfer: block }),
  z.strictObject({ tear: z.enum(['before', 'after']) }),
  z.strictObject({ dump: z.literal(true) }),
  directoryInput,
]);
type Line = z.output<typeof lineInput>;

const MASTER_KEYS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;
/** A torn command has no answer: that is told in place of one. */
const TORN = { answer: null, torn: true };

function cardFrom(input: z.output<typeof blankInput>): FilesCard | SectorsCard {
  if (input.kind === 'files') {
    const { generation, masterKey } = input;
    return new FilesCard(
      blankFiles({ generation, masterKey: MASTER_KEYS[masterKey], uid: bytesOf(input.uid, 'uid', 7) }),
    );
  }
  const uid = bytesOf(input.uid, 'uid');
  if (uid.length !== 4 && uid.length !== 7) fail('uid', `A UID has 4 or 7 bytes, not ${uid.length}.`, { field: 'uid' });
  return new SectorsCard(blankSectors(input.size, uid));
}

/** A conversation with one card: a generation 2 file-system card with an AES key unless a first line says otherwise. */
export function chipConversation(): (raw: unknown) => unknown {
  let card: FilesCard | SectorsCard | undefined;
  let drawn: Uint8Array = new Uint8Array(0);
  let tear: 'before' | 'after' | undefined;
  const random = (count: number): Uint8Array => {
    // Without bytes given a card would draw its own: here it draws zeros, so that a run can be repeated.
    const bytes = new Uint8Array(count);
    bytes.set(drawn.subarray(0, count));
    drawn = drawn.subarray(count);
    return bytes;
  };
  return (raw) => {
    const line = lineInput.parse(raw);
    if ('do' in line) return directoryLine(line);
    if ('blank' in line) {
      if (card) fail('blank', 'There is a card already: `blank` stands in the first line.', { field: 'blank' });
      card = cardFrom(line.blank);
      return { ready: line.blank.kind };
    }
    card ??= cardFrom({ kind: 'files', generation: 2, masterKey: 'aes128', uid: '04A1B2C3D4E5F6' });
    if ('random' in line) {
      drawn = bytesOf(line.random, 'random');
      return { random: drawn.length };
    }
    if ('tear' in line) {
      ({ tear } = line);
      return { tear };
    }
    if ('dump' in line)
      return { memory: card instanceof FilesCard ? dumpFiles(card.memory) : dumpSectors(card.memory) };
    const torn = tear;
    tear = undefined;
    if (torn === 'before') {
      card.powerOff();
      return TORN;
    }
    const answer = card instanceof FilesCard ? say(card, line, random) : command(card, line);
    if (torn === undefined) return answer;
    card.powerOff();
    return TORN;
  };
}

function say(card: FilesCard, line: Line, random: (count: number) => Uint8Array): unknown {
  if (!('apdu' in line)) return fail('command', 'A file-system card takes commands as `apdu`.');
  return { answer: hexOf(card.transmit(bytesOf(line.apdu, 'apdu'), random)) };
}

function command(card: SectorsCard, line: Line): unknown {
  try {
    if ('auth' in line) card.authenticate(line.auth.block, line.auth.key, bytesOf(line.auth.value, 'auth.value', 6));
    else if ('read' in line) return { answer: hexOf(card.read(line.read)) };
    else if ('write' in line) card.write(line.write, bytesOf(line.data, 'data', 16));
    else if ('increment' in line) card.change(line.increment, 'increment', line.by | 0);
    else if ('decrement' in line) card.change(line.decrement, 'decrement', line.by | 0);
    else if ('restore' in line) card.change(line.restore, 'restore');
    else if ('transfer' in line) card.transfer(line.transfer);
    else return fail('command', 'A sector card takes auth, read, write, increment, decrement, restore and transfer.');
    return { answer: 'ACK' };
  } catch (error) {
    if (error instanceof SectorRefused) return { refused: error.why };
    throw error;
  }
}
