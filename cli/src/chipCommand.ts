/** What `rawbits chip` does: one simulated card for the run, a line in and a line out. */
import {
  blankFiles,
  blankSectors,
  type ChipMemory,
  copied,
  dumpFiles,
  dumpSectors,
  FilesCard,
  SectorRefused,
  SectorsCard,
  torn as tornMemory,
} from '@rawbits/core/chip';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { fail } from '@rawbits/core/failure';
import {
  blankTag,
  carrierTag,
  configurationIn,
  FSK,
  type Fsk,
  identificationTag,
  MODULATIONS,
  sendingOf,
  stringHeard,
  type TagMemory,
  tagHeard,
  writeTag,
} from '@rawbits/core/lf';
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
  z.strictObject({
    kind: z.literal('tag'),
    /** The forty bits of an identification tag; an empty tag without. */
    data: hex.optional(),
    rate: z.union([z.literal(32), z.literal(64)]).default(64),
    /** Or the Wiegand string that it carries, 1 to 37 binary digits. */
    carries: z.string().max(64).optional(),
  }),
]);

const lineInput = z.union([
  z.strictObject({ blank: blankInput }),
  z.strictObject({ apdu: hex }),
  z.strictObject({ random: hex }),
  z.strictObject({ auth: z.strictObject({ block, key: z.enum(['A', 'B']), value: hex }) }),
  z.strictObject({ read: block }),
  z.strictObject({ write: block, data: hex, password: hex.optional(), lock: z.boolean().optional() }),
  z.strictObject({
    hear: z.strictObject({
      rate: z.number().int(),
      modulation: z.enum([...MODULATIONS, ...(Object.keys(FSK) as Fsk[])]).default('manchester'),
    }),
  }),
  z.strictObject({ increment: block, by: z.number().int().min(0).max(0xffffffff) }),
  z.strictObject({ decrement: block, by: z.number().int().min(0).max(0xffffffff) }),
  z.strictObject({ restore: block }),
  z.strictObject({ transfer: block }),
  z.strictObject({ tear: z.enum(['before', 'during', 'after']) }),
  z.strictObject({ dump: z.literal(true) }),
  directoryInput,
]);
type Line = z.output<typeof lineInput>;

const MASTER_KEYS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;
/** A torn command has no answer: that is told in place of one. */
const TORN = { answer: null, torn: true };

type Card = FilesCard | SectorsCard | TagMemory;

function cardFrom(input: z.output<typeof blankInput>): Card {
  if (input.kind === 'tag' && input.carries !== undefined) return carrierTag(input.carries);
  if (input.kind === 'tag')
    return input.data === undefined
      ? blankTag()
      : identificationTag(BigInt(`0x${hexOf(bytesOf(input.data, 'data', 5))}`), input.rate);
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
  let card: Card | undefined;
  let drawn: Uint8Array = new Uint8Array(0);
  let tear: 'before' | 'during' | 'after' | undefined;
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
    if ('dump' in line) return { memory: dumped(card) };
    const torn = tear;
    tear = undefined;
    if (torn === 'before') {
      powerOff(card);
      return TORN;
    }
    const before = torn === 'during' ? copied(memoryOf(card)) : undefined;
    const answer =
      card instanceof FilesCard
        ? say(card, line, random)
        : card instanceof SectorsCard
          ? command(card, line)
          : tagLine(card, line);
    if (torn === undefined) return answer;
    if (before) card = cardOf(tornMemory(before, memoryOf(card), random));
    powerOff(card);
    return TORN;
  };
}

const memoryOf = (card: Card): ChipMemory => ('memory' in card ? card.memory : card);

function cardOf(memory: ChipMemory): Card {
  if (memory.kind === 'files') return new FilesCard(memory);
  return memory.kind === 'sectors' ? new SectorsCard(memory) : memory;
}

const powerOff = (card: Card): void => {
  if (card instanceof FilesCard || card instanceof SectorsCard) card.powerOff();
};

function dumped(card: Card): unknown {
  if (card instanceof FilesCard) return dumpFiles(card.memory);
  if (card instanceof SectorsCard) return dumpSectors(card.memory);
  const { hasPassword } = configurationIn(card.blocks[0]!);
  // The password is a key like any other.
  return { ...card, blocks: card.blocks.map((word, i) => (i === 7 && hasPassword ? null : word32(word))) };
}

const word32 = (word: number): string => word.toString(16).toUpperCase().padStart(8, '0');

function tagLine(tag: TagMemory, line: Line): unknown {
  if ('read' in line) {
    const word = tag.blocks[line.read];
    if (word === undefined) return { refused: 'no such block' };
    return line.read === 7 && configurationIn(tag.blocks[0]!).hasPassword
      ? { refused: 'password' }
      : { answer: word32(word) };
  }
  if ('write' in line) {
    const wordIn = (text: string, field: string) => Number.parseInt(hexOf(bytesOf(text, field, 4)), 16);
    const password = line.password === undefined ? undefined : wordIn(line.password, 'password');
    const refused = writeTag(tag, line.write, wordIn(line.data, 'data'), { password, lock: line.lock });
    return refused ? { refused } : { answer: 'ACK' };
  }
  if (!('hear' in line)) return fail('command', 'A tag takes read, write and hear.');
  const signal = sendingOf(tag);
  const data = signal && tagHeard(signal, line.hear);
  if (data !== undefined) return { answer: data.toString(16).toUpperCase().padStart(10, '0') };
  const string = signal && stringHeard(signal, line.hear);
  return string === undefined ? { refused: 'no tag is heard' } : { string };
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
