import { appendFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_IMAGE } from '@rawbits/core/access';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { digestOf } from './controller.ts';
import { Rig } from './rig.ts';
import { rigSetupSchema } from './setup.ts';

const format = catalogued('26-8-16')!;
const setup = rigSetupSchema.parse({
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

describe('the rig', () => {
  let folder: string;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-rig-'));
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));

  const load = (rig: Rig, digest = digestOf(image)) => {
    const controller = rig.controller('main');
    controller.beginLoad('l1', true);
    controller.takePiece('l1', { formats: [format] });
    controller.takePiece('l1', { credentials: [credential] });
    controller.commitLoad('l1', digest);
  };
  const outcome = async (rig: Rig) => (await rig.log.after(0, 0)).at(-1)?.decision?.outcome;

  it('a card held to a door goes as pulses to its controller, which decides by what was loaded', async () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    rig.present('a', 'door', 0);
    expect(await outcome(rig)).toBe('refused');
    load(rig);
    rig.present('a', 'door', 0);
    expect(await outcome(rig)).toBe('opened');
    rig.present('a', 'pad', 0);
    expect((await rig.log.after(2, 0))[0]).toMatchObject({
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
    first.present('a', 'door', 0);
    appendFileSync(join(folder, 'log.jsonl'), '{"seq":2,"at":"cut off in the mid');
    const second = new Rig(folder);
    second.present('a', 'door', 0);
    expect(second.log.epoch).toBe(first.log.epoch);
    expect((await second.log.after(0, 0)).map((e) => [e.seq, e.decision?.outcome])).toEqual([
      [1, 'opened'],
      [2, 'opened'],
    ]);
    expect((await new Rig(folder).log.after(0, 0)).length).toBe(2);
  });

  it('a load that did not come whole changes nothing', () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    const before = rig.controller('main').digest;
    expect(() => load(rig, 'another digest')).toThrow('something else than was sent');
    expect(() => rig.controller('main').takePiece('l2', {})).toThrow('knows nothing of this load');
    expect(rig.controller('main').digest).toBe(before);
  });

  it('what the tray shows does not give the bits away', () => {
    const rig = new Rig(folder);
    rig.setUp(setup);
    expect(Object.keys(rig.cards[0]!)).toEqual(['id', 'shape', 'printed', 'look']);
    expect(() => rig.present('x', 'door', 0)).toThrow('no card "x"');
  });
});
