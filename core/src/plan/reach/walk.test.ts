/**
 * Random commands of a file-system card by somebody who has some of the plan's keys: whatever is another on the card afterwards,
 * or was read from it, is among what reach says of these keys. Every command of the chip's table is driven until it had an effect.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { reportEffects } from '../../../testing/effects.ts';
import { runs } from '../../../testing/runs.ts';
import {
  type Application,
  blankFiles,
  type CardFile,
  copied,
  FILES_COMMANDS,
  FilesCard,
  type FilesCommand,
  type FilesMemory,
} from '../../chip/index.ts';
import { sameBytes } from '../../cipher/index.ts';
import { type Authentication, type FileMode, FilesHost, type HostKey } from '../../host/index.ts';
import { bringCard, ringOf } from '../bring/index.ts';
import { type Plan, planSchema } from '../schema/index.ts';
import { reach } from './index.ts';

const ID = 0x0a0b0c;
const COMMANDS = Object.keys(FILES_COMMANDS) as FilesCommand[];
const bytesFor = (name: string) => Uint8Array.from({ length: 16 }, (_, i) => (name.charCodeAt(0) * 7 + 13 * i) & 0xff);
const THEIRS = Uint8Array.from({ length: 16 }, (_, i) => 0x11 * (1 + (i % 14)));
let drawn = 7;
const random = (count: number) => Uint8Array.from({ length: count }, () => (drawn = (drawn * 75 + 74) % 65_537) & 0xff);

const KEYS = 3;
const who = fc.oneof(fc.constantFrom('free' as const, 'never' as const), fc.nat(KEYS - 1));
const flags = fc.record({
  masterChangeable: fc.boolean(),
  freeDirectory: fc.boolean(),
  freeCreate: fc.boolean(),
  changeable: fc.boolean(),
});
const FILE_KINDS = ['standard', 'backup', 'value', 'linear', 'cyclic'] as const;
const plans = fc
  .record({
    keyKind: fc.constantFrom('aes128' as const, 'tdes2' as const),
    card: fc.record({ key: fc.constantFrom('c', null), settings: flags }),
    randomUid: fc.boolean(),
    names: fc.array(fc.constantFrom('a', 'b', 'd', null), { minLength: KEYS, maxLength: KEYS }),
    settings: flags,
    changeKeys: fc.oneof(fc.constantFrom('itself' as const, 'never' as const), fc.nat(KEYS - 1)),
    limitedCredit: fc.boolean(),
    files: fc.array(
      fc.record({
        mode: fc.constantFrom('plain' as const, 'maced' as const, 'enciphered' as const),
        rights: fc.record({ read: who, write: who, both: who, change: who }),
      }),
      { minLength: FILE_KINDS.length, maxLength: FILE_KINDS.length },
    ),
  })
  .map(({ keyKind, names, settings, changeKeys, limitedCredit, files, ...rest }) =>
    planSchema.parse({
      schema: 'rawbits/plan@1',
      ...rest,
      keys: [],
      applications: [
        {
          id: '0A0B0C',
          keyKind,
          keys: names,
          settings: { ...settings, changeKeys },
          files: files.map((head, number) => {
            const kind = FILE_KINDS[number]!;
            if (kind === 'value') return { kind, number, ...head, upper: 200, value: 100, limitedCredit };
            return {
              kind,
              number,
              ...head,
              size: 8,
              ...(kind === 'linear' || kind === 'cyclic' ? { records: 3 } : {}),
            };
          }),
        },
      ],
    }),
  );

/** A card with the plan on it, that was in use: a value taken off, so that limited credit has something to give back. */
async function usedCard(plan: Plan): Promise<FilesMemory> {
  const uid = Uint8Array.of(4, 1, 2, 3, 4, 5, 6);
  const masterKey = plan.card.keyKind === 'aes128' ? 'aes' : plan.card.keyKind === 'tdes3' ? 'tdes3' : 'des';
  const card = new FilesCard(blankFiles({ generation: 2, masterKey, uid }));
  const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, random) }, random);
  await bringCard(host, { plan, ring: ringOf(plan, bytesFor), known: { values: {} }, selected: uid });
  for (const file of card.memory.applications[0]!.files)
    if (file.kind === 'value') Object.assign(file, { value: 60, limitedCredit: 40 });
    else if ('records' in file) file.records = [new Uint8Array(8).fill(3)];
  return card.memory;
}

const step = fc.record({ what: fc.nat(29), pick: fc.nat(1 << 20) });
/** Select, authenticate, and a few commands there. */
const sitting = fc.record({
  level: fc.constantFrom('card', 'application', 'application'),
  slot: fc.oneof(fc.nat(KEYS - 1), fc.constant('nobody' as const)),
  newer: fc.boolean(),
  steps: fc.array(step, { minLength: 2, maxLength: 8 }),
});
type Sitting = typeof sitting extends fc.Arbitrary<infer S> ? S : never;

class Walk {
  readonly card: FilesCard;
  readonly host: FilesHost;
  readonly effects = new Set<FilesCommand>();
  /** The application and the files that were planned, as the card has them. */
  private readonly application: Application;
  private readonly files: CardFile[];
  private codes: number[] = [];
  private session: number | undefined;

  constructor(
    memory: FilesMemory,
    private readonly known: Uint8Array[],
  ) {
    this.card = new FilesCard(memory);
    this.host = new FilesHost({ transmit: async (apdu) => this.send(apdu) }, random);
    this.application = memory.applications[0]!;
    this.files = [...this.application.files];
  }

  private send(apdu: Uint8Array): Uint8Array {
    const answer = this.card.transmit(apdu, random);
    const status = answer.at(-1);
    if (status === 0 || status === 0xaf) this.codes.push(apdu[1]!);
    return answer;
  }

  /** The key in a slot of what is selected, as far as they know it: whoever has several tries each. */
  private keyAt(slot: number): HostKey | undefined {
    const { keys, keyKind } = this.card.level;
    const key = keys[slot];
    if (!key || !this.known.some((bytes) => sameBytes(bytes, key.bytes.subarray(0, 16)))) return undefined;
    return { kind: keyKind === 'aes' ? 'aes128' : 'tdes2', bytes: key.bytes.subarray(0, 16), version: key.version };
  }

  private theirs = (): HostKey => ({
    kind: this.card.level.keyKind === 'aes' ? 'aes128' : 'tdes2',
    bytes: THEIRS,
    version: 9,
  });

  /** Everything of a sitting, with what it did as reach calls it. */
  async sit({ level, slot, newer, steps }: Sitting): Promise<string[]> {
    const did: string[] = [];
    const { host } = this;
    did.push(...(await this.tried(() => host.select(level === 'card' ? 0 : ID))));
    this.session = undefined;
    const key = slot === 'nobody' ? undefined : this.keyAt(level === 'card' ? 0 : slot);
    if (key) {
      const at = level === 'card' ? 0 : (slot as number);
      const how: Authentication = key.kind === 'aes128' ? (newer ? 'newer' : 'aes') : newer ? 'oldest' : 'iso';
      did.push(...(await this.tried(() => host.authenticate(how, at, key))));
      if (how === 'newer') did.push(...(await this.tried(() => host.authenticate(how, at, key))));
      this.session = at;
    }
    for (const one of steps) did.push(...(await this.tried(() => this.act(one))));
    return did;
  }

  private async tried(act: () => Promise<unknown>): Promise<string[]> {
    this.codes = [];
    const before = copied(this.card.memory);
    const held = { applications: [...this.card.memory.applications], files: [...this.application.files] };
    let shown: string[] = [];
    try {
      const result = await act();
      shown = Array.isArray(result) ? (result as string[]) : [];
    } catch {
      // A refusal, or what cannot even be put into words without a session: what it changed all the same is looked at.
    }
    const did = [...shown, ...this.changes(before, held)];
    this.note(did.length > 0);
    return did;
  }

  /** Which commands had an effect: those of reading, listing and sessions by their answer, the others by what is another now. */
  private note(hasChanged: boolean): void {
    for (const name of COMMANDS)
      if (
        this.codes.includes(FILES_COMMANDS[name]) &&
        (hasChanged || /^(Get|Free|Auth|Additional|Select|Abort|Read)/.test(name))
      )
        this.effects.add(name);
  }

  private fileOf(pick: number): CardFile | undefined {
    return this.card.level.files[pick % Math.max(1, this.card.level.files.length)];
  }

  /** The mode that the file has, or plain, or any. */
  private modeOf(file: CardFile | undefined, pick: number): FileMode {
    const own = ({ 0: 'plain', 1: 'maced', 3: 'enciphered' } as const)[file?.mode ?? 0];
    return ([own, own, 'plain', 'maced'] as const)[(pick >> 6) & 3]!;
  }

  /** One command, by its place in a list of all; gives what it showed. */
  private async act({ what, pick }: { what: number; pick: number }): Promise<string[]> {
    const { host } = this;
    const file = this.fileOf(pick);
    const number = file?.number ?? pick % 6;
    const mode = this.modeOf(file, pick);
    const rights = { read: 'free', write: 'free', both: 'free', change: 'free' } as const;
    const data = Uint8Array.of(pick & 255, 0xa5);
    const isPlanned = this.files.includes(file!) && this.isThere();
    const shows = (text: string): string[] => (isPlanned ? [`${text} file ${number} of 0A0B0C`] : []);
    const lists = this.card.level === this.card.memory.card ? 'list the applications' : 'list the files of 0A0B0C';
    const listed = this.card.level === this.application || this.card.level === this.card.memory.card ? [lists] : [];
    const raw = async (code: number, ...rest: number[]) =>
      void (
        this.session === undefined &&
        this.send(Uint8Array.of(0x90, code, 0, 0, ...(rest.length > 0 ? [rest.length, ...rest] : []), 0))
      );
    const acts: (() => Promise<unknown>)[] = [
      () => showing(host.read(number, 0, 4, mode), shows('read')),
      () => showing(host.readRecords(number, 0, 1, 8, mode), shows('read')),
      () => showing(host.value(number, mode), shows('read')),
      () => host.write(number, 1, data, mode).then(() => this.committed(pick)),
      () => host.writeRecord(number, 1, data, mode).then(() => this.committed(pick)),
      () => host.changeValue('credit', number, 1 + (pick % 9), mode).then(() => this.committed(pick)),
      () => host.changeValue('limited credit', number, 1 + (pick % 9), mode).then(() => this.committed(pick)),
      () => host.changeValue('debit', number, 1 + (pick % 9), mode).then(() => this.committed(pick)),
      () => host.clearRecords(number).then(() => this.committed(pick)),
      () => host.abort(),
      () => host.commit(),
      () => showing(host.applications(), listed),
      () => showing(host.files(), listed),
      () => showing(host.keySettings(), listed),
      () => showing(host.fileSettings(number), listed),
      () => host.keyVersion(pick % KEYS),
      () => host.version(),
      () => host.freeMemory(),
      () => showing(host.uid(), ['learn the UID']),
      () => host.changeKeySettings((pick >> 3) & 255),
      () => host.changeFileSettings(number, 'plain', rights, (pick & 1) === 0),
      () => host.createApplication(pick & 1 ? ID : 0x111111, 0x0f, 'aes128', 3),
      () => host.deleteApplication(pick & 1 ? ID : 0x111111),
      () => (pick % 4 === 0 ? host.format() : host.deleteFile(number)),
      () => this.changeKey(pick % KEYS),
      () => host.createData(pick & 1 ? 'standard' : 'backup', pick % 5, 'plain', rights, 8),
      () => host.createValue(pick % 5, 'plain', rights, { lower: 0, upper: 100, value: 50, limitedCredit: true }),
      () => host.createRecords(pick & 1 ? 'linear' : 'cyclic', pick % 5, 'plain', rights, 8, 3),
      () => raw(pick & 1 ? 0x6d : 0x61),
      () => (pick % 2 === 0 ? host.setConfiguration((pick >> 3) & 3) : host.keyVersion(0)),
    ];
    const shown = await acts[what]!();
    return Array.isArray(shown) && shown.every((one) => typeof one === 'string') ? shown : [];
  }

  /** Commits, or takes back, or leaves what was written for another to commit. */
  private committed = async (pick: number): Promise<void> => {
    if (pick % 6 === 0) await this.host.abort();
    else if (pick % 3 !== 0) await this.host.commit();
  };

  private changeKey(slot: number): Promise<void> {
    const isCard = this.card.level === this.card.memory.card;
    const at = isCard ? 0 : slot;
    return this.host.changeKey(at, this.theirs(), at === this.session ? undefined : this.keyAt(at), isCard);
  }

  private isThere = (): boolean => this.card.memory.applications.includes(this.application);

  /** What is another than before, as reach calls it. */
  private changes(before: FilesMemory, held: { applications: Application[]; files: CardFile[] }): string[] {
    const { memory } = this.card;
    const did: string[] = [];
    if (!sameKeys(before.card, memory.card)) did.push('change the card master key');
    if (before.card.settings !== memory.card.settings) did.push('change the settings of the card');
    if (before.noFormat !== memory.noFormat || before.randomUid !== memory.randomUid)
      did.push('change the configuration of the card');
    if (this.codes.includes(FILES_COMMANDS.FormatPICC)) did.push('format the card');
    const was = held.applications.includes(this.application);
    if (was && !this.isThere())
      did.push(
        'delete 0A0B0C',
        ...this.files.filter((one) => held.files.includes(one)).map(({ number }) => `destroy file ${number} of 0A0B0C`),
      );
    if (!was && !held.applications.some(({ id }) => id === ID) && memory.applications.some(({ id }) => id === ID))
      did.push('replace 0A0B0C');
    if (was && this.isThere())
      did.push(
        ...this.withinApplication(before.applications[held.applications.indexOf(this.application)]!, held.files),
      );
    return did;
  }

  private withinApplication(before: Application, held: CardFile[]): string[] {
    const now = this.application;
    const did: string[] = [];
    for (const [slot, key] of now.keys.entries())
      if (!sameBytes(key.bytes, before.keys[slot]!.bytes)) did.push(`change key ${slot} of 0A0B0C`);
    if (before.settings !== now.settings) did.push('change the settings of 0A0B0C');
    for (const file of this.files) {
      const called = `file ${file.number} of 0A0B0C`;
      if (held.includes(file) && !now.files.includes(file)) did.push(`destroy ${called}`);
      if (!held.includes(file) || !now.files.includes(file)) continue;
      const was = before.files[held.indexOf(file)]!;
      if (was.rights !== file.rights || was.mode !== file.mode) did.push(`change the rights of ${called}`);
      did.push(...changed(was, file).flatMap((what) => [`${what} ${called}`, `alter ${called}`]));
    }
    for (const file of now.files)
      if (!held.includes(file))
        did.push(`replace file ${file.number} of 0A0B0C`, `alter file ${file.number} of 0A0B0C`);
    return did;
  }
}

/** What an answer shows, once it has come. */
const showing = (answer: Promise<unknown>, what: string[]): Promise<string[]> => answer.then(() => what);

const sameKeys = (a: Application, b: Application): boolean =>
  a.keys.every((key, i) => sameBytes(key.bytes, b.keys[i]!.bytes));

/** What was done to a file's contents. */
function changed(was: CardFile, now: CardFile): string[] {
  if (was.kind === 'value' && now.kind === 'value')
    return now.value > was.value ? ['credit'] : now.value < was.value ? ['debit'] : [];
  if ('records' in was && 'records' in now) {
    if (now.records.length < was.records.length) return ['clear'];
    return JSON.stringify(was.records) === JSON.stringify(now.records) ? [] : ['write'];
  }
  return 'data' in was && 'data' in now && !sameBytes(was.data, now.data) ? ['write'] : [];
}

describe('reach of a file-system card against random commands', () => {
  it('has all that they do, and each command of the table has an effect', async () => {
    const effects = new Map<FilesCommand, number>(COMMANDS.map((name) => [name, 0]));
    await fc.assert(
      fc.asyncProperty(
        plans,
        fc.subarray(['a', 'b', 'c', 'd']),
        fc.array(sitting, { minLength: 10, maxLength: 30, size: 'max' }),
        async (plan, keys, sittings) => {
          const can = new Set(reach(plan, new Set(keys)).map((one) => one.can));
          const walk = new Walk(await usedCard(plan), [new Uint8Array(16), THEIRS, ...keys.map(bytesFor)]);
          for (const [i, one] of sittings.entries())
            for (const did of await walk.sit(one)) {
              // The UID is a secret only of a card that shows another in each field.
              if (did === 'learn the UID' && !plan.randomUid) continue;
              expect([i, one, did, can.has(did)]).toEqual([i, one, did, true]);
            }
          for (const name of walk.effects) effects.set(name, effects.get(name)! + 1);
        },
      ),
      { numRuns: runs(800), endOnFailure: true },
    );
    reportEffects('a file-system card', effects);
    expect([...effects].filter(([, walks]) => walks < 1)).toEqual([]);
  });

  it('a key that may only write puts back what was debited: that is told as a credit', () => {
    const file = {
      kind: 'value',
      number: 0,
      upper: 200,
      rights: { read: 'never', write: 1, both: 'never', change: 'never' },
    };
    const plan = (limitedCredit: boolean) =>
      planSchema.parse({
        schema: 'rawbits/plan@1',
        card: { key: 'c' },
        applications: [{ id: '0A0B0C', keys: ['office', 'till'], files: [{ ...file, limitedCredit }] }],
      });
    const can = (limited: boolean) => reach(plan(limited), new Set(['till'])).map((one) => one.can);
    expect(can(true)).toContain('credit file 0 of 0A0B0C');
    expect(can(true)).toContain('limited credit file 0 of 0A0B0C');
    expect(can(false)).not.toContain('credit file 0 of 0A0B0C');
  });
});
