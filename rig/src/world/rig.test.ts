import { createHash } from 'node:crypto';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_DIGEST, EMPTY_IMAGE, type ItemChange } from '@rawbits/core/access';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { Controller, itemsOf } from '../controller/controller.ts';
import { rigMemorySchema } from '../store/setup.ts';
import { Rig } from './rig.ts';

const format = catalogued('26-8-16')!;
const setup = rigMemorySchema.parse({
  site: 'station',
  cards: [
    {
      id: 'a',
      shape: 'card',
      printed: '9034',
      look: 'white',
      bits: encode(format, { facility: '71', number: '9034' }).toBinary(),
    },
  ],
  readers: [
    { id: 'door', controller: 'main' },
    { id: 'pad', controller: null },
  ],
  controllers: [{ id: 'main' }],
});
const credential = {
  id: 'c',
  format: '26-8-16',
  facility: '71',
  number: '9034',
  holder: null,
  state: 'active' as const,
  validFrom: null,
  validTo: null,
};
const image = { ...EMPTY_IMAGE, formats: [format], credentials: [credential] };
/** The sum of the SHA-256 of its items, modulo 2^256, as `core` describes it, worked out with node:crypto. */
const DIGEST = (
  itemsOf(image)
    .map(([key, text]) => BigInt(`0x${createHash('sha256').update(`${key}\t${text}`).digest('hex')}`))
    .reduce((a, b) => a + b) %
  (1n << 256n)
)
  .toString(16)
  .padStart(64, '0');

describe('the rig', () => {
  let folder: string;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-rig-'));
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));

  const load = (rig: Rig, digest = DIGEST) => {
    const controller = rig.controller('main');
    controller.beginLoad('l1', controller.digest);
    for (const [i, change] of itemsOf(image).entries()) controller.takePiece('l1', i + 1, [change]);
    controller.commitLoad('l1', digest);
  };
  const entries = async (rig: Rig, seq = 0) =>
    (await rig.log.after({ epoch: rig.log.epoch, seq, entry: '' }, 0)).entries;
  const outcome = async (rig: Rig) => (await entries(rig)).at(-1)?.decision?.outcome;

  it('a card held to a door goes as pulses to its controller, which decides by what was loaded', async () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    rig.present('a', 'door');
    expect(await outcome(rig)).toBe('refused');
    load(rig);
    rig.present('a', 'door');
    expect(await outcome(rig)).toBe('opened');
    rig.present('a', 'pad');
    expect((await entries(rig, 2))[0]).toMatchObject({
      seq: 3,
      controller: null,
      decision: null,
      bits: setup.cards[0]!.bits,
    });
  });

  it('what a controller was loaded with, and the log, outlive the process', async () => {
    const first = new Rig(folder);
    first.setUp(setup);
    load(first);
    first.present('a', 'door');
    appendFileSync(join(folder, 'log.jsonl'), '{"seq":2,"at":"cut off in the mid');
    const second = new Rig(folder);
    second.present('a', 'door');
    expect(second.log.epoch).toBe(first.log.epoch);
    expect((await entries(second)).map((e) => [e.seq, e.decision?.outcome])).toEqual([
      [1, 'opened'],
      // The number of the entry that was cut off may have been told, and is not given out again.
      [3, 'opened'],
    ]);
    expect((await entries(new Rig(folder))).length).toBe(2);
  });

  it('an entry that was damaged is left out, and no number is given out twice', async () => {
    const first = new Rig(folder);
    first.setUp(setup);
    for (let i = 0; i < 3; i++) first.present('a', 'pad');
    const file = join(folder, 'log.jsonl');
    writeFileSync(file, readFileSync(file, 'utf8').replace('"seq":2', '"seq":9'));
    const second = new Rig(folder);
    second.present('a', 'pad');
    expect((await entries(second)).map((e) => e.seq)).toEqual([1, 3, 4]);
  });

  it('a log put back from an older copy begins a new epoch, and every entry keeps its name', async () => {
    const first = new Rig(folder);
    first.setUp(setup);
    first.present('a', 'pad');
    const older = readFileSync(join(folder, 'log.jsonl'));
    for (let i = 1; i < 4; i++) first.present('a', 'pad');
    const before = await entries(first);
    const place = { epoch: first.log.epoch, seq: 4, entry: before[3]!.id };
    writeFileSync(join(folder, 'log.jsonl'), older);
    const second = new Rig(folder);
    // Grown past the place again before anybody asks: by number alone these five would be taken for the old ones.
    for (let i = 0; i < 5; i++) second.present('a', 'pad');
    const answer = await second.log.after(place, 0);
    expect([answer.epoch === place.epoch, answer.entries]).toEqual([false, []]);
    const all = await entries(second);
    expect(all.map((e) => e.seq)).toEqual([1, 2, 3, 4, 5, 6]);
    expect(all[0]!.id).toBe(before[0]!.id);
    expect(new Set([...all, ...before].map((e) => e.id)).size).toBe(9);
    expect((await new Rig(folder).log.after({ epoch: answer.epoch, seq: 9, entry: '' }, 0)).epoch).not.toBe(
      answer.epoch,
    );
  });

  it('serves the site that it was set up for, and no other', () => {
    const rig = new Rig(folder);
    rig.claim('station');
    rig.setUp(setup);
    expect(() => rig.serve('elsewhere')).toThrow('another site');
    expect(() => rig.claim('elsewhere')).toThrow('another site');
    expect(new Rig(folder).site).toBe('station');
  });

  it('a load that did not come whole changes nothing', () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    const before = rig.controller('main').digest;
    expect(() => load(rig, '0'.repeat(64))).toThrow('something else than was sent');
    expect(() => rig.controller('main').takePiece('l2', 1, [])).toThrow('knows nothing of this load');
    expect(() => rig.controller('main').beginLoad('l3', DIGEST)).toThrow('something else than is known');
    expect(rig.controller('main').digest).toBe(before);
  });

  it('what the tray shows does not give the bits away', () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    expect(Object.keys(rig.cards[0]!)).toEqual(['id', 'shape', 'printed', 'look']);
    expect(() => rig.present('x', 'door')).toThrow('no card "x"');
  });
});

describe('the memory of a controller', () => {
  let folder: string;
  beforeEach(() => {
    folder = join(mkdtempSync(join(tmpdir(), 'rawbits-rig-')), 'main');
  });
  afterEach(() => rmSync(join(folder, '..'), { recursive: true, force: true }));

  const cards = (from: number, to: number, state: 'active' | 'lost' = 'active') =>
    itemsOf({
      ...EMPTY_IMAGE,
      credentials: Array.from({ length: to - from }, (_, i) => ({
        ...credential,
        id: `c${from + i}`,
        number: String(from + i),
        state,
      })),
    }).slice(1);
  /** The digest of a controller that was given all of it at once. */
  const digestOf = (changes: ItemChange[]) => {
    const other = new Controller('x', join(folder, '..', `x${Math.random()}`));
    other.changeByHand(changes);
    return other.digest;
  };

  it('a load that broke off goes on after the last piece that came, in another process', () => {
    const first = new Controller('main', folder);
    expect(first.beginLoad('l1', EMPTY_DIGEST)).toBe(0);
    first.takePiece('l1', 1, cards(0, 300));
    first.takePiece('l1', 2, cards(300, 600));
    const second = new Controller('main', folder);
    expect([second.digest, second.beginLoad('l1', EMPTY_DIGEST)]).toEqual([EMPTY_DIGEST, 2]);
    // Sent again because its answer was lost: passed over.
    second.takePiece('l1', 2, cards(300, 600));
    expect(() => second.takePiece('l1', 4, [])).toThrow('Piece 4 came, and 3 was to come');
    second.takePiece('l1', 3, [...cards(600, 601), ...cards(0, 1, 'lost')]);
    second.commitLoad('l1', digestOf([...cards(1, 601), ...cards(0, 1, 'lost')]));
    expect(new Controller('main', folder)).toMatchObject({ digest: second.digest, size: 601 });
  });

  it('cut at any byte, the journal gives what was before a change or after it, and goes on from there', () => {
    const whole = new Controller('main', folder);
    const after = [whole.digest];
    for (const changes of [cards(0, 2), cards(1, 3, 'lost'), [['card c0', null] as ItemChange]]) {
      whole.changeByHand(changes);
      after.push(whole.digest);
    }
    const journal = readFileSync(join(folder, 'journal-0.jsonl'));
    for (let size = journal.length; size >= 0; size -= 7) {
      writeFileSync(join(folder, 'journal-0.jsonl'), journal.subarray(0, size));
      const cut = new Controller('main', folder);
      expect(after).toContain(cut.digest);
      cut.changeByHand(cards(7, 8));
      expect(new Controller('main', folder).digest).toBe(cut.digest);
      cut.close();
    }
  });

  it('a journal that outgrew its snapshot becomes one, and its pieces are not told twice', async () => {
    const controller = new Controller('main', folder);
    let digest = EMPTY_DIGEST;
    for (let round = 0; round < 8; round++) {
      const changes = cards(0, 1500, round % 2 ? 'lost' : 'active');
      controller.beginLoad(`l${round}`, digest);
      controller.takePiece(`l${round}`, 1, changes);
      digest = digestOf(changes);
      controller.commitLoad(`l${round}`, digest);
      await new Promise(setImmediate);
    }
    const journals = readdirSync(folder).filter((name) => name.startsWith('journal'));
    expect([journals.length, journals[0] === 'journal-0.jsonl']).toEqual([1, false]);
    expect(new Controller('main', folder)).toMatchObject({ digest, size: 1500 });
  });

  it('what was remembered in one file, as rigs did before, is taken over once', () => {
    const older = join(folder, '..', 'main.json');
    mkdirSync(join(folder, '..'), { recursive: true });
    writeFileSync(older, JSON.stringify(image));
    expect(new Controller('main', folder, older).digest).toBe(DIGEST);
    expect([existsSync(older), new Controller('main', folder, older).digest]).toEqual([false, DIGEST]);
  });
});
