/**
 * Random commands against a plain model of files and transactions, with fields that go in the middle; and bytes that mean
 * nothing, which a card answers and never breaks on.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs, seedOr } from '../../testing/runs.ts';
import { bytesOf, hexOf, littleEndian } from '../cipher/index.ts';
import { blankFiles, blankSectors, FilesCard, SectorRefused, SectorsCard } from './index.ts';

const UID = bytesOf('04A1B2C3D4E5F6', 'uid');
const SIZE = 16;
const [LOWER, UPPER] = [0, 100];
const MOST = 4;

/** What stands, and what is pending, said plainly. */
interface Model {
  data: number[];
  backup: number[];
  value: number;
  limited: number;
  records: number[];
  pending: {
    backup?: number[];
    value?: number;
    debits: number;
    limitedUsed: boolean;
    record?: number;
    cleared: boolean;
  };
}
const nothing = (): Model['pending'] => ({ debits: 0, limitedUsed: false, cleared: false });
const isPending = ({ backup, value, record, cleared }: Model['pending']): boolean =>
  backup !== undefined || value !== undefined || record !== undefined || cleared;

class Real {
  readonly card = new FilesCard(blankFiles({ generation: 2, masterKey: 'aes', uid: UID }));
  constructor() {
    for (const command of [
      'CA0100000F81',
      '5A010000',
      `CD0100EEEE${hexOf(littleEndian(SIZE, 3))}`,
      `CB0200EEEE${hexOf(littleEndian(SIZE, 3))}`,
      `CC0300EEEE${hexOf(littleEndian(LOWER, 4))}${hexOf(littleEndian(UPPER, 4))}${hexOf(littleEndian(50, 4))}01`,
      `C00400EEEE010000${hexOf(littleEndian(MOST, 3))}`,
    ])
      this.say(command);
  }
  say(text: string): string {
    return hexOf(this.card.transmit(bytesOf(text, 'command'), (count) => new Uint8Array(count)));
  }
}

type Step = fc.Command<Model, Real>;
const step = (name: string, run: (model: Model, real: Real) => void): Step => ({
  check: () => true,
  run,
  toString: () => name,
});
/** A command that the model says goes through or is refused; what is refused drops what is pending. */
function expects(model: Model, real: Real, command: string, refused: string | undefined, through: () => void): void {
  const answer = real.say(command);
  expect(answer).toBe(refused ?? '00');
  if (refused === undefined) through();
  else if (refused !== '0C') model.pending = nothing();
}

const hex3 = (n: number): string => hexOf(littleEndian(n, 3));
const writes = (file: 1 | 2, offset: number, bytes: number[]): Step =>
  step(`write ${file} at ${offset}: ${bytes}`, (model, real) => {
    const command = `3D0${file}${hex3(offset)}${hex3(bytes.length)}${hexOf(Uint8Array.from(bytes))}`;
    const refused = bytes.length === 0 ? '9E' : offset + bytes.length > SIZE ? 'BE' : undefined;
    expects(model, real, command, refused, () => {
      const target = file === 1 ? model.data : (model.pending.backup ??= [...model.backup]);
      for (const [i, byte] of bytes.entries()) target[offset + i] = byte;
    });
  });
const credits = (amount: number): Step =>
  step(`credit ${amount}`, (model, real) => {
    const now = model.pending.value ?? model.value;
    expects(model, real, `0C03${hexOf(littleEndian(amount, 4))}`, now + amount > UPPER ? 'BE' : undefined, () => {
      model.pending.value = now + amount;
    });
  });
const debits = (amount: number): Step =>
  step(`debit ${amount}`, (model, real) => {
    const now = model.pending.value ?? model.value;
    expects(model, real, `DC03${hexOf(littleEndian(amount, 4))}`, now - amount < LOWER ? 'BE' : undefined, () => {
      model.pending.value = now - amount;
      model.pending.debits += amount;
    });
  });
const creditsBack = (amount: number): Step =>
  step(`limited credit ${amount}`, (model, real) => {
    const now = model.pending.value ?? model.value;
    const refused = model.pending.limitedUsed || amount > model.limited || now + amount > UPPER ? 'BE' : undefined;
    expects(model, real, `1C03${hexOf(littleEndian(amount, 4))}`, refused, () => {
      model.pending.value = now + amount;
      model.pending.limitedUsed = true;
    });
  });
const records = (byte: number): Step =>
  step(`record ${byte}`, (model, real) => {
    const command = `3B04${hex3(0)}${hex3(1)}${hexOf(Uint8Array.of(byte))}`;
    expects(model, real, command, model.pending.cleared ? '9D' : undefined, () => {
      model.pending.record = byte;
    });
  });
const clears = step('clear', (model, real) =>
  expects(model, real, 'EB04', undefined, () => {
    model.pending.cleared = true;
    model.pending.record = undefined;
  }),
);
const commits = step('commit', (model, real) =>
  expects(model, real, 'C7', isPending(model.pending) ? undefined : '0C', () => {
    const { backup, value, debits: taken, limitedUsed, record, cleared } = model.pending;
    if (backup) model.backup = backup;
    if (value !== undefined) model.value = value;
    if (limitedUsed) model.limited = 0;
    if (taken > 0) model.limited = taken;
    if (cleared) model.records = [];
    if (record !== undefined) model.records = [record, ...model.records].slice(0, MOST - 1);
    model.pending = nothing();
  }),
);
const aborts = step('abort', (model, real) =>
  expects(model, real, 'A7', isPending(model.pending) ? undefined : '0C', () => {
    model.pending = nothing();
  }),
);
const tears = step('the field goes', (model, real) => {
  real.card.powerOff();
  real.say('5A010000');
  model.pending = nothing();
});
const looks = step('look', (model, real) => {
  expect(real.say('BD01000000000000')).toBe(`00${hexOf(Uint8Array.from(model.data))}`);
  expect(real.say('BD02000000000000')).toBe(`00${hexOf(Uint8Array.from(model.backup))}`);
  expect(real.say('6C03')).toBe(`00${hexOf(littleEndian(model.value, 4))}`);
  const wanted = model.records.length === 0 ? 'BE' : `00${hexOf(Uint8Array.from(model.records).reverse())}`;
  expect(real.say('BB04000000000000')).toBe(wanted);
  if (model.records.length === 0) model.pending = nothing();
});

const amount = fc.integer({ min: 0, max: 60 });
const steps = [
  fc
    .tuple(
      fc.constantFrom(1 as const, 2 as const),
      fc.integer({ min: 0, max: SIZE }),
      fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 5 }),
    )
    .map((all) => writes(...all)),
  amount.map(credits),
  amount.map(debits),
  amount.map(creditsBack),
  fc.integer({ min: 0, max: 255 }).map(records),
  fc.constantFrom(clears, commits, commits, aborts, tears, looks, looks),
];

describe('a file-system card', () => {
  it('does what the model says, whatever comes in whatever order', () => {
    fc.assert(
      fc.property(fc.commands(steps, { size: 'large', maxCommands: 120 }), (commands) => {
        const setup = () => ({
          model: {
            data: new Array<number>(SIZE).fill(0),
            backup: new Array<number>(SIZE).fill(0),
            value: 50,
            limited: 0,
            records: [],
            pending: nothing(),
          } as Model,
          real: new Real(),
        });
        fc.modelRun(setup, commands);
      }),
      { numRuns: runs(300) },
    );
  });

  it('answers a hundred thousand commands that mean nothing, and is never more than its memory', () => {
    const { card } = new Real();
    const commands = [
      '0A00',
      'AA00',
      '710000',
      'AF',
      'C400',
      '5A010000',
      'CA0200000F81',
      '3D01',
      'BD01',
      '5C00',
      '5F01',
      '60',
      '6A',
    ];
    let seed = seedOr(1);
    const next = (below: number) => {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      return (seed >>> 8) % below;
    };
    const seen = new Set<number>();
    for (let i = 0; i < runs(100_000); i++) {
      const start = next(3) === 0 ? [] : [...bytesOf(commands[next(commands.length)]!, 'command')];
      const rest = Array.from({ length: next(4) === 0 ? next(62) : next(9) }, () => next(256));
      const native = Uint8Array.from([...start, ...rest]);
      const wrapped = Uint8Array.from([
        0x90,
        native[0] ?? 0,
        0,
        0,
        Math.max(0, native.length - 1),
        ...native.slice(1),
        0,
      ]);
      const answer = card.transmit(next(2) ? native : wrapped, (count) => new Uint8Array(count));
      expect(answer.length).toBeLessThanOrEqual(61);
      if (answer.length > 0) seen.add(answer[0]!);
    }
    expect(card.memory.applications.length).toBeLessThan(129);
    expect(seen.size).toBeGreaterThan(8);
  });
});

describe('a sector card', () => {
  it('never shows a key, whatever is asked of it', () => {
    const secret = bytesOf('5EC2E75EC2E7', 'key');
    const memory = blankSectors('1K', bytesOf('01020304', 'uid'));
    for (let block = 3; block < 64; block += 4) memory.blocks[block]!.set(secret);
    const card = new SectorsCard(memory);
    const block = fc.integer({ min: 0, max: 70 });
    const asked = fc.oneof(
      fc.tuple(fc.constant('authenticate' as const), block),
      fc.tuple(fc.constantFrom('read' as const, 'restore' as const, 'transfer' as const), block),
    );
    fc.assert(
      fc.property(fc.array(asked, { maxLength: 30 }), (all) => {
        for (const [what, at] of all)
          try {
            if (what === 'authenticate') card.authenticate(at, 'A', secret);
            else if (what === 'read') expect(hexOf(card.read(at))).not.toContain(hexOf(secret));
            else if (what === 'restore') card.change(at, 'restore');
            else card.transfer(at);
          } catch (error) {
            if (!(error instanceof SectorRefused)) throw error;
          }
      }),
    );
  });
});
