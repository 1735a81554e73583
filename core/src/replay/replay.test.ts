/**
 * What was done to a card, kept without its keys, and played again: with the keys at hand every answer is the same, byte for
 * byte, whether or not the card was torn away on the way; and of one changed bit it is said where.
 */
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import {
  blankFiles,
  blankSectors,
  type CardKeyKind,
  FilesCard,
  SectorRefused,
  SectorsCard,
  sectorFrame,
} from '../chip/index.ts';
import { bytesOf } from '../cipher/index.ts';
import { Exchange, type ExchangeLine, FilesHost, type HostKeyKind, SectorsHost, TagHost } from '../host/index.ts';
import { blankTag, hears } from '../lf/index.ts';
import {
  type AnyPlan,
  anyPlanSchema,
  blanksOf,
  bringCard,
  bringSectors,
  bringTag,
  freeCard,
  type Plan,
  type Ring,
  type SectorPlan,
  type TagPlan,
} from '../plan/index.ts';
import { type KeptStep, replay } from './index.ts';

const UID = bytesOf('04A1B2C3D4E5F6', 'uid');
const KNOWN = { values: { holder: 'Åse Vik', number: '201' }, bits: Bits.fromBinary('10110') };
const BYTES: Record<HostKeyKind, number> = { aes128: 16, tdes2: 16, tdes3: 24 };
/** Keys of a name and a version, all of one kind. */
const keys =
  (kind: HostKeyKind, newest = 1): Ring =>
  (name) => {
    const key = (version: number) => ({
      kind,
      bytes: Uint8Array.from(
        { length: BYTES[kind] },
        (_, i) => (name.charCodeAt(i % name.length) * 7 + version * 16 + 2 * i) & 0xfe,
      ),
      version,
    });
    return { now: key(newest), before: Array.from({ length: newest - 1 }, (_, i) => key(newest - 1 - i)) };
  };
let seed = 11;
const draw = (count: number) => Uint8Array.from({ length: count }, () => (seed = (seed * 75 + 74) % 65_537) & 0xff);

const planOf = (kind: HostKeyKind) =>
  anyPlanSchema.parse({
    schema: 'rawbits/plan@1',
    kind: 'files',
    card: { key: 'master', keyKind: kind, settings: { freeDirectory: false } },
    applications: [
      {
        id: '5A0001',
        keyKind: kind,
        keys: ['office', 'door', 'partner'],
        settings: { changeKeys: 'itself' },
        files: [
          {
            kind: 'standard',
            number: 1,
            size: 70,
            rights: { read: 1, write: 0, both: 'never', change: 0 },
            fields: [{ name: 'holder', length: 70, content: { is: 'text', of: 'holder' } }],
          },
        ],
      },
    ],
  }) as Plan & { kind: 'files' };

class Gone extends Error {}
/** A card whose commands are kept; torn away at one of them if `at` says so, before the card does it or after. */
function kept(kind: HostKeyKind) {
  const masterKey: CardKeyKind = kind === 'aes128' ? 'aes' : kind === 'tdes2' ? 'des' : 'tdes3';
  const card = new FilesCard(blankFiles({ generation: 2, masterKey, uid: UID }));
  const steps: KeptStep[] = [];
  let count = 0;
  /** Works on it as a run does. */
  const works = async (
    work: (host: FilesHost, before: () => void) => Promise<unknown>,
    { at = Number.POSITIVE_INFINITY, after = false } = {},
  ) => {
    let exchange = new Exchange();
    const begin = (starts: boolean) => {
      exchange = new Exchange();
      steps.push({ starts, lines: exchange.lines });
    };
    card.powerOff();
    begin(true);
    const transmit = async (apdu: Uint8Array) => {
      const isTorn = count++ === at;
      if (isTorn && !after) {
        exchange.note(apdu, undefined);
        throw new Gone();
      }
      const answer = card.transmit(apdu, draw);
      exchange.note(apdu, isTorn ? undefined : answer);
      if (isTorn) throw new Gone();
      return answer;
    };
    const host = new FilesHost({ transmit }, draw);
    await work(host, () => begin(false)).catch((error) => {
      if (!(error instanceof Gone)) throw error;
    });
  };
  return { works, steps, commands: () => count };
}

const bringing = (plan: Plan, ring: Ring) => (host: FilesHost, before: () => void) =>
  bringCard(host, { plan, ring, known: KNOWN, selected: UID, before: () => before(), begun: () => true });

describe('the exchange of a file-system card', () => {
  it.each(['aes128', 'tdes2', 'tdes3'] as const)('%s: encoded, a key rolled over, taken back', async (kind) => {
    const plan = planOf(kind);
    const { works, steps, commands } = kept(kind);
    await works(bringing(plan, keys(kind)));
    await works(bringing(plan, keys(kind, 2)));
    await works((host, before) => freeCard(host, { plan, ring: keys(kind, 2), before: () => before() }));
    expect(await replay(blanksOf([plan], UID, keys(kind, 2)), steps)).toEqual({ played: commands(), unseen: 0 });
  });

  it('torn away at any command, before it or after it, and finished', async () => {
    const plan = planOf('aes128');
    const whole = kept('aes128');
    await whole.works(bringing(plan, keys('aes128')));
    for (let at = 0; at < whole.commands(); at++)
      for (const after of [false, true]) {
        const { works, steps, commands } = kept('aes128');
        await works(bringing(plan, keys('aes128')), { at, after });
        await works(bringing(plan, keys('aes128')));
        const played = await replay(blanksOf([plan], UID, keys('aes128')), steps);
        expect([at, after, played]).toEqual([at, after, { played: commands(), unseen: 1 }]);
      }
  });

  it('with other keys: it differs where the first of them is used', async () => {
    const plan = planOf('aes128');
    const { works, steps } = kept('aes128');
    await works(bringing(plan, keys('aes128')));
    const other: Ring = (name) => keys('aes128')(`${name}x`, null);
    const { differs } = await replay(blanksOf([plan], UID, other), steps);
    const { command } = steps[differs!.step]!.lines![differs!.line]!;
    expect([command.slice(0, 4), differs!.came.slice(-4)]).toEqual(['90C4', '9100']);
  });

  it('of one changed bit, in a command or in an answer, it is said where', async () => {
    const plan = planOf('aes128');
    const { works, steps, commands } = kept('aes128');
    await works(bringing(plan, keys('aes128')));
    const blanks = blanksOf([plan], UID, keys('aes128'));
    // Which key is meant makes no difference while all of them are the factory's.
    const namesKey = steps.flatMap(({ lines }) => lines!.map(({ command }) => /^90(64|AA)/.test(command)));
    for (let n = 0; n < commands(); n++)
      for (const part of ['command', 'answer'] as const) {
        if (part === 'command' && namesKey[n]) continue;
        const changed = changedAt(steps, n, part);
        const { differs, played } = await replay(blanks, changed);
        expect([n, part, differs !== undefined]).toEqual([n, part, true]);
        // A part of an authentication that was changed shows at the latest when the card has confirmed it.
        expect(played - 1 - n).toBeLessThanOrEqual(1);
      }
  });

  it('a step whose commands were not kept is named where what follows differs', async () => {
    const plan = planOf('aes128');
    const { works, steps } = kept('aes128');
    await works(bringing(plan, keys('aes128')));
    const writes = steps.findIndex(({ lines }) => lines?.some(({ command }) => command.startsWith('90CA')));
    const cut = steps.map((step, i) => (i === writes ? { ...step, lines: null } : step));
    const { gap, differs } = await replay(blanksOf([plan], UID, keys('aes128')), cut);
    expect([gap, differs!.step > writes]).toEqual([writes, true]);
  });
});

/** The last bit of a command's data, or of an answer's first byte, is another. */
function changedAt(steps: readonly KeptStep[], n: number, part: 'command' | 'answer'): KeptStep[] {
  let at = 0;
  return steps.map(({ starts, lines }) => ({
    starts,
    lines: lines!.map((line: ExchangeLine) => {
      if (at++ !== n) return line;
      const bytes = bytesOf(line[part], part);
      // Of a command the code, where it has no data.
      const place = part === 'answer' ? 0 : bytes.length > 6 ? bytes.length - 2 : 1;
      bytes[place]! ^= 1;
      return {
        ...line,
        [part]: [...bytes]
          .map((byte) => byte.toString(16).padStart(2, '0'))
          .join('')
          .toUpperCase(),
      };
    }),
  }));
}

it('that never agrees ends, whatever was left open in it, and lets others in between', async () => {
  let [commands, pauses] = [0, 0];
  const card = () => ({
    powerOff: () => {},
    play: async () => {
      commands++;
      return 'same';
    },
  });
  const gone = Array.from({ length: 40 }, () => ({ command: '00', answer: '', gone: true as const }));
  const lines = [...gone, ...Array.from({ length: 3000 }, () => ({ command: '00', answer: 'same' }))];
  const steps = [{ starts: true, lines: [...lines, { command: '00', answer: 'other' }] }];
  const played = await replay([card], steps, async () => void pauses++);
  expect(played).toMatchObject({ played: 3041, differs: { line: 3040 } });
  // Fifty thousand, and the way that was begun.
  expect(commands).toBeLessThan(54_000);
  expect(pauses).toBeGreaterThan(commands / 250);
});

it('of a sector card: authentications and trailers are made again, the rest is held against what was kept', async () => {
  const plan = anyPlanSchema.parse({
    schema: 'rawbits/plan@1',
    kind: 'sectors',
    directory: true,
    sectors: [
      {
        number: 1,
        keyA: 'reader',
        keyB: 'office',
        application: '4801',
        access: { data: [4, 4, 2], trailer: 3 },
        fields: [{ name: 'number', length: 4, content: { is: 'number', of: 'number' } }],
      },
      { number: 5, keyA: 'reader', keyB: 'office', access: { data: [3, 3, 3], trailer: 3 } },
    ],
  }) as SectorPlan;
  const uid = bytesOf('B7910E5C', 'uid');
  const card = new SectorsCard(blankSectors('1K', uid));
  const exchange = new Exchange();
  const transmitRaw = async (frame: Uint8Array) => {
    const answer = sectorFrame(card, frame);
    exchange.noteFrame(frame, answer);
    return answer;
  };
  const ring = (name: string) => ({
    now: Uint8Array.from(name.padEnd(6), (letter) => letter.charCodeAt(0)),
    before: [],
  });
  const refused = (error: unknown) => {
    if (!(error instanceof SectorRefused)) throw error;
  };
  await bringSectors(new SectorsHost({ transmitRaw }, uid), { plan, ring, known: KNOWN }).catch(refused);
  const steps = [{ starts: true, lines: exchange.lines }];
  const blanks = blanksOf([plan], uid, () => undefined);
  const { length } = exchange.lines;
  expect(length).toBeGreaterThan(20);
  const seen = exchange.lines.filter(({ command }) => !/^30(03|07|17)/.test(command)).length;
  expect(await replay(blanks, steps)).toEqual({ played: length, unseen: length - seen });
  const data = exchange.lines.findIndex(({ command }) => command.startsWith('3004'));
  const changed = exchange.lines.map((line, i) =>
    i === data ? { ...line, answer: line.answer.replace(/^0/, '1') } : line,
  );
  expect(await replay(blanks, [{ starts: true, lines: changed }])).toMatchObject({ differs: { step: 0, line: data } });
});

it('of a block that was cut short as it was written: what the first reads there is taken, and no other', async () => {
  const line = (command: string, answer: string, gone?: true) => ({ command, answer, ...(gone && { gone }) });
  const word = (hex: string) => Number.parseInt(hex, 16).toString(2).padStart(32, '0');
  const write = line(`tag: write block 1, 100${word('5A5A0000')}001`, '', true);
  const reads = (...answers: string[]) => answers.map((answer) => line('tag: read block 1, 100001', answer));
  const tag = blanksOf(
    [anyPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'tag', sends: { is: 'string' } })],
    bytesOf('E015A1B2C3D4E5F6', 'trace'),
    () => undefined,
  );
  const played = (...answers: string[]) => replay(tag, [{ starts: true, lines: [write, ...reads(...answers)] }]);
  for (const whole of ['00000000', '5A5A0000', '5A480000'])
    expect(await played(whole, whole)).toEqual({ played: 3, unseen: 1 });
  expect(await played('5A480000', '5A5A0000')).toMatchObject({ played: 3, differs: { line: 2, came: '5A480000' } });

  const bytes = (hex: string) => hex.padEnd(32, '0');
  const plan = anyPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'sectors', sectors: [{ number: 1 }] });
  const sectors = blanksOf([plan], bytesOf('B7910E5C', 'uid'), () => undefined);
  const lines = [line('6004', ''), line(`A004${bytes('5A5A')}`, '', true)];
  const again = [line('6004', ''), line('3004', bytes('5A48')), line('3004', bytes('5A48'))];
  const steps = [lines, again].map((one) => ({ starts: true, lines: one }));
  expect(await replay(sectors, steps)).toEqual({ played: 5, unseen: 1 });
});

it('of a tag without a password: every word; of one with a password what was kept, as far as it goes', async () => {
  const planned = (password: string | null) =>
    anyPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'tag', sends: { is: 'string' }, password }) as TagPlan;
  const played = async (plan: AnyPlan & { kind: 'tag' }, change = (lines: ExchangeLine[]) => lines) => {
    const trace = bytesOf('E015A1B2C3D4E5F6', 'trace');
    const memory = blankTag([0xe015a1b2, 0xc3d4e5f6]);
    const exchange = new Exchange();
    const host = new TagHost({
      transmitTag: async (frame, about) => {
        const heard = hears(memory, frame);
        exchange.noteTagFrame(about, frame, heard);
        return heard;
      },
    });
    await host.trace();
    const ring = () => ({ now: bytesOf('5E11CA7E', 'password'), before: [] });
    await bringTag(host, { plan, ring, known: KNOWN });
    const steps = [{ starts: true, lines: change([...exchange.lines]) }];
    return replay(
      blanksOf([plan], trace, () => undefined),
      steps,
    );
  };
  const open = await played(planned(null));
  expect(open).toMatchObject({ unseen: expect.any(Number) });
  expect(open.differs).toBeUndefined();
  expect(open.played - open.unseen).toBeGreaterThan(8);
  const other = await played(planned(null), (lines) =>
    lines.map((line, i) => (i === 0 ? { ...line, answer: `1${line.answer.slice(1)}` } : line)),
  );
  expect(other).toMatchObject({ played: 1, differs: { step: 0, line: 0, came: 'E015A1B2 C3D4E5F6' } });
  const guarded = await played(planned('Tags'));
  expect(guarded.differs).toBeUndefined();
  expect(guarded.unseen).toBeGreaterThan(3);
});
