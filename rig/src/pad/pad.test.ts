/** The pad: what lies on it is told apart, answers through the rig's files, and can be torn away at any command. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { type ChipInside, chipInsideSchema } from '@rawbits/api';
import { type FilesMemory, type SectorsMemory, selectionOf } from '@rawbits/core/chip';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import { build } from 'esbuild';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { Credentials } from '../credential/credentials.ts';
import { deliveredBy, memoryOf } from '../credential/inside.ts';
import { Pad } from './pad.ts';

const INSIDES: Record<string, ChipInside> = {
  staff: chipInsideSchema.parse({ kind: 'files', uid: '04 63 1D 92 A8 70 80' }),
  band: chipInsideSchema.parse({ kind: 'sectors', uid: 'B7910E5C' }),
  fob: chipInsideSchema.parse({ kind: 'tag', data: '06003A2A77' }),
  slow: chipInsideSchema.parse({ kind: 'tag', data: '06003A2A77', rate: 32 }),
  old: chipInsideSchema.parse({ kind: 'carrier', bits: '1'.repeat(26) }),
};
const ZERO = { kind: 'aes128' as const, bytes: new Uint8Array(16) };
let drawn = 1;
const draw = (count: number) =>
  Uint8Array.from({ length: count }, () => ((drawn = (drawn * 75 + 74) % 65_537) >> 7) & 0xff);

describe('the pad', () => {
  let folder: string;
  let tray: Credentials;
  let pad: Pad;
  const open = () => {
    tray = new Credentials(folder);
    tray.place(new Map(Object.entries(INSIDES)));
    pad = new Pad(tray, draw);
  };
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-pad-'));
    open();
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  const host = () => new FilesHost({ transmit: async (apdu) => pad.transmit(apdu) }, draw);
  const files = () => (tray.get('staff')!.memory as FilesMemory).applications;
  /** An application with a standard file and a backup file of four bytes, free for everybody. */
  const furnish = async () => {
    pad.lay(['staff']);
    pad.connect();
    const talk = host();
    await talk.authenticate('aes', 0, ZERO);
    await talk.createApplication(0x3042f5, 0x0f, 'aes128', 1);
    await talk.select(0x3042f5);
    await talk.authenticate('aes', 0, ZERO);
    const free = { read: 'free', write: 'free', both: 'free', change: 0 } as const;
    for (const [number, kind] of [
      [0, 'standard'],
      [1, 'backup'],
    ] as const)
      await talk.createData(kind, number, 'plain', free, 4);
    return talk;
  };

  it('tells no card from one and from two, and a tag from either', () => {
    expect(() => pad.connect()).toThrow('no card on the pad');
    pad.lay(['fob', 'slow']);
    expect(() => pad.connect()).toThrow('two tags on the pad');
    pad.lay(['fob']);
    expect(pad.connect()).toMatchObject({ isTag: true, sak: 0 });
    expect(() => pad.transmit(Uint8Array.of(0x90, 0x60, 0, 0, 0))).toThrow('takes no APDUs');
    pad.lay(['staff', 'band']);
    expect(() => pad.connect()).toThrow('two cards on the pad');
    pad.lay(['staff', 'fob']);
    expect(hexOf(pad.connect().uid)).toBe('04631D92A87080');
    expect(() => pad.lay(['nobody'])).toThrow('nothing inside');
    pad.lay(['band']);
    expect(hexOf(pad.connect().uid)).toBe('B7910E5C');
    expect(() => pad.transmit(Uint8Array.of(0x90, 0x60, 0, 0, 0))).toThrow('takes no APDUs');
  });

  it('what was written is on the disk before its answer, and there after the process', async () => {
    const talk = await furnish();
    await talk.write(0, 0, Uint8Array.of(1, 2, 3, 4), 'plain');
    open();
    expect(files()[0]!.files[0]).toMatchObject({ kind: 'standard', data: Uint8Array.of(1, 2, 3, 4) });
    // What a transaction has pending goes with the field.
    pad.lay(['staff']);
    pad.connect();
    const again = host();
    await again.select(0x3042f5);
    await again.write(1, 0, Uint8Array.of(9, 9, 9, 9), 'plain');
    open();
    expect(files()[0]!.files[1]).toMatchObject({ data: new Uint8Array(4) });
  });

  it.each([
    ['before', [0, 0, 0, 0]],
    ['after', [5, 6, 7, 8]],
  ] as const)('torn %s a write: it is gone, and what was written is %j', async (at, data) => {
    const talk = await furnish();
    pad.tearAtNext(at);
    await expect(talk.write(0, 0, Uint8Array.of(5, 6, 7, 8), 'plain')).rejects.toThrow('gone from the pad');
    expect(pad.cards).toEqual([]);
    expect(() => pad.transmit(Uint8Array.of(0x60))).toThrow('gone from the pad');
    open();
    expect(files()[0]!.files[0]).toMatchObject({ data: Uint8Array.from(data) });
  });

  it('torn in a commit: the old block or the new one; in a plain write anything', async () => {
    const [backups, standards] = [new Set<string>(), new Set<string>()];
    for (let i = 0; i < 25; i++) {
      rmSync(folder, { recursive: true, force: true });
      open();
      const talk = await furnish();
      await talk.write(1, 0, Uint8Array.of(5, 6, 7, 8), 'plain');
      pad.tearAtNext('during');
      await expect(talk.commit()).rejects.toThrow('gone');
      backups.add(hexOf((files()[0]!.files[1] as { data: Uint8Array }).data));
      pad.lay(['staff']);
      pad.connect();
      const again = host();
      await again.select(0x3042f5);
      pad.tearAtNext('during');
      await expect(again.write(0, 0, Uint8Array.of(5, 6, 7, 8), 'plain')).rejects.toThrow('gone');
      standards.add(hexOf((files()[0]!.files[0] as { data: Uint8Array }).data));
    }
    expect([...backups].sort()).toEqual(['00000000', '05060708']);
    expect(standards.size).toBeGreaterThan(5);
  });

  it('a sector card answers frames, is refused with a reason, and keeps what was written', async () => {
    pad.lay(['band']);
    const { uid } = pad.connect();
    const talk = new SectorsHost({ transmitRaw: async (frame) => pad.transmitRaw(frame) }, uid);
    await expect(talk.read(4)).rejects.toThrow('not authenticated');
    await talk.authenticate(4, 'A', bytesOf('FFFFFFFFFFFF', 'key'));
    await talk.write(4, new Uint8Array(16).fill(7));
    open();
    expect((tray.get('band')!.memory as SectorsMemory).blocks[4]).toEqual(new Uint8Array(16).fill(7));
  });

  it('put together as it was a credential keeps what is on it; put together otherwise it is blank', async () => {
    const talk = await furnish();
    await talk.write(0, 0, Uint8Array.of(1, 2, 3, 4), 'plain');
    tray.place(new Map(Object.entries(INSIDES)));
    expect(files()).toHaveLength(1);
    tray.place(new Map([['staff', { ...INSIDES.staff!, generation: 3 } as ChipInside]]));
    expect([files(), readdirSync(folder)]).toEqual([[], ['staff.json']]);
  });

  it('a disk that keeps nothing: the command fails, and the card is as it was', async () => {
    const talk = await furnish();
    tray.keep = () => {
      throw new Error('The rig’s disk is full');
    };
    await expect(talk.write(0, 0, Uint8Array.of(1, 2, 3, 4), 'plain')).rejects.toThrow('disk is full');
    expect(files()[0]!.files[0]).toMatchObject({ data: new Uint8Array(4) });
  });

  it('killed at any moment, the file of a credential is what it was before a command or after it', async () => {
    await furnish();
    const program = join(folder, '..', `${basename(folder)}.mjs`);
    await build({
      stdin: {
        contents: `
          import { Credentials } from './credential/credentials.ts';
          const tray = new Credentials(process.argv[2]);
          tray.place(new Map([['staff', JSON.parse(process.argv[3])]]));
          for (let i = 0; ; i++) {
            const { memory } = tray.get('staff');
            memory.applications[0].files[0].data.fill(i);
            tray.keep('staff', memory);
            if (i === 3) process.stdout.write('writing');
          }`,
        resolveDir: join(import.meta.dirname, '..'),
      },
      bundle: true,
      platform: 'node',
      format: 'esm',
      outfile: program,
    });
    for (let round = 0; round < 3; round++) {
      const child = spawn(process.execPath, [program, folder, JSON.stringify(INSIDES.staff)]);
      await once(child.stdout, 'data');
      await new Promise((resolve) => setTimeout(resolve, 20 + 15 * round));
      child.kill('SIGKILL');
      await once(child, 'exit');
      open();
      const [a, ...rest] = (files()[0]!.files[0] as { data: Uint8Array }).data;
      expect(rest.every((byte) => byte === a)).toBe(true);
    }
    rmSync(program);
  });
});

describe('what a reader at a door makes of a credential', () => {
  it.each([
    ['staff', '0x04631D92A87080', 56],
    ['band', '0xB7910E5C', 32],
    ['old', '0x3FFFFFF', 26],
  ] as const)('%s', (id, value, length) => {
    const bits = deliveredBy(memoryOf(INSIDES[id]!, 'one'), draw)!;
    expect([bits.length, BigInt(`0b${bits.toBinary()}`)]).toEqual([length, BigInt(value)]);
  });

  it('of an identification tag the low 24 bits as facility code and number; one at another rate it does not see', () => {
    // 58 and 10871 are 3A and 2A77.
    expect(deliveredBy(memoryOf(INSIDES.fob!, 'one'), draw)!.length).toBe(26);
    expect(deliveredBy(memoryOf(INSIDES.slow!, 'one'), draw)).toBeUndefined();
  });

  it('a random identifier is another one each time', () => {
    const memory = { ...(memoryOf(INSIDES.staff!, 'one') as FilesMemory), randomUid: true };
    const seen = new Set(Array.from({ length: 9 }, () => deliveredBy(memory, draw)!.toHex()));
    expect(seen.size).toBeGreaterThan(5);
    expect(selectionOf(memory, draw)!.uid[0]).toBe(8);
  });
});
