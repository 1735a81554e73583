/** Bringing the files of an application along: made, filled, and given their rights, in this order. */
import { sameBytes } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import type { FileMode } from '../../host/index.ts';
import { bytesOfFields, type Field, placed } from '../fields/index.ts';
import type { PlanApplication, PlanFile, Who } from '../schema/index.ts';
import type { Bringer, CardStep } from './bring.ts';
import type { Level } from './level.ts';
import { buildingRights, type FileThere, fileIn, sameRights, shapeOf } from './settings.ts';

export async function bringFiles(bringer: Bringer, application: PlanApplication, level: Level): Promise<void> {
  const { host } = bringer;
  const there = await host.files();
  const onlyContents = application.there === 'renew contents';
  for (const number of there)
    if (!onlyContents && !application.files.some((file) => file.number === number))
      await new FileBringer(bringer, application, level).delete(number);
  for (const file of application.files)
    await new FileBringer(bringer, application, level).bring(file, there.includes(file.number), onlyContents);
}

type Use = 'read' | 'write' | 'change';

/** Who may use a file so: the slots, or everybody. */
const holders = ({ read, write, both, change }: PlanFile['rights'], use: Use): Who[] =>
  use === 'read' ? [read, both] : use === 'write' ? [write, both] : [change];

class FileBringer {
  constructor(
    private readonly bringer: Bringer,
    private readonly application: PlanApplication,
    private readonly level: Level,
  ) {}

  private step(what: CardStep['do'], file: number, loses?: string): CardStep {
    return { do: what, application: this.application.id, file, ...(loses !== undefined && { loses }) };
  }

  async delete(number: number, loses = 'what stands in it'): Promise<boolean> {
    await this.level.mustEnter(0);
    return this.bringer.act(this.step('delete file', number, loses), this.level, () =>
      this.bringer.host.deleteFile(number),
    );
  }

  async bring(file: PlanFile, isThere: boolean, onlyContents: boolean): Promise<void> {
    if (!isThere) {
      if (onlyContents) fail('file-missing', `The card has no file ${file.number} in ${this.application.id}.`);
      return this.make(file);
    }
    await this.level.mustEnter(0);
    const there = fileIn(await this.bringer.host.fileSettings(file.number));
    if (there.shape !== shapeOf(file)) {
      if (onlyContents) fail('file-other', `File ${file.number} of ${this.application.id} is not as the plan has it.`);
      if (await this.delete(file.number)) return this.make(file);
      return undefined;
    }
    const now = await this.contents(file, there);
    if (onlyContents || (now.mode === file.mode && sameRights(now.rights, file.rights))) return undefined;
    return this.rights(file, now, file.rights, true);
  }

  /** A file with fields gets them under rights of key 0, and its own after. */
  private async make(file: PlanFile): Promise<void> {
    const { host } = this.bringer;
    const { kind, number, mode } = file;
    await this.level.mustEnter(0);
    const filled = 'fields' in file && file.fields.length > 0;
    const rights = filled ? buildingRights(file.rights) : file.rights;
    const iso = 'isoId' in file && file.isoId !== undefined ? Number.parseInt(file.isoId, 16) : undefined;
    const taken = await this.bringer.act(this.step('create file', number), this.level, () => {
      if (file.kind === 'value') return host.createValue(number, mode, rights, file);
      if (file.kind === 'linear' || file.kind === 'cyclic')
        return host.createRecords(file.kind, number, mode, rights, file.size, file.records, iso);
      return host.createData(file.kind, number, mode, rights, file.size, iso);
    });
    if (!taken || !filled) return;
    const there: FileThere = { kind, mode, rights, shape: shapeOf(file) };
    await this.contents(file, there);
    await this.rights(file, there, file.rights, false);
  }

  /** What its fields hold: read, and written where it differs. Gives the file's settings as they are then. */
  private async contents(file: PlanFile, there: FileThere): Promise<FileThere> {
    if (!('fields' in file) || file.fields.length === 0) return there;
    const isUnfinished = sameRights(there.rights, buildingRights(file.rights));
    const wanted = bytesOfFields(file.fields, file.size, this.bringer.known);
    const runs = runsOf(file.fields, isUnfinished);
    let now = there;
    if (!(await this.may(now, 'read'))) {
      if (this.bringer.looks || !(await this.may(now, 'change'))) {
        this.bringer.cannotRead(`file ${file.number} of ${this.application.id}`);
        return now;
      }
      now = await this.open(file, now);
    }
    const differing = await this.differing(file, now, runs, wanted);
    if (differing.length === 0) return now;
    if (!(await this.may(now, 'write'))) {
      if (!(await this.may(now, 'change')))
        fail(
          'not-writable',
          `File ${file.number} of ${this.application.id} differs, and none of the keys at hand may write it or change its rights.`,
          { field: 'card' },
        );
      if (!this.bringer.looks) now = await this.open(file, now);
    }
    for (const { from, to } of differing) await this.write(file, now, from, wanted.subarray(from, to));
    if (this.bringer.looks) return now;
    if (!(await this.may(now, 'read'))) now = await this.open(file, now);
    if ((await this.differing(file, now, runs, wanted)).length > 0)
      fail('not-written', `File ${file.number} of ${this.application.id} does not hold what was written to it.`);
    return now;
  }

  private async write(file: PlanFile, there: FileThere, from: number, bytes: Uint8Array): Promise<void> {
    const { host } = this.bringer;
    const mode = await this.modeFor(there, 'write');
    await this.bringer.act(this.step('write file', file.number), this.level, async () => {
      await host.write(file.number, from, bytes, mode);
      if (file.kind === 'backup') await host.commit();
    });
  }

  private async differing(file: PlanFile, there: FileThere, runs: readonly Run[], wanted: Uint8Array): Promise<Run[]> {
    const mode = await this.modeFor(there, 'read');
    const found: Run[] = [];
    for (const run of runs) {
      const bytes = await this.bringer.host.read(file.number, run.from, run.to - run.from, mode);
      if (!sameBytes(bytes, wanted.subarray(run.from, run.to))) found.push(run);
    }
    return found;
  }

  /** Whether a use is open to somebody whose key is at hand. */
  private async may({ rights }: FileThere, use: Use): Promise<boolean> {
    const who = holders(rights, use);
    return who.includes('free') || (await this.slotFor(who)) !== undefined;
  }

  /** Authenticates by a slot that holds a right: the one that is authenticated, if it does. */
  private async slotFor(who: readonly Who[]): Promise<number | undefined> {
    const slots = who.filter((one) => typeof one === 'number');
    if (this.level.session !== undefined && slots.includes(this.level.session)) return this.level.session;
    for (const slot of slots) if (await this.level.enter(slot)) return slot;
    return undefined;
  }

  /** Authenticates for a use; gives the mode of the exchange, which is plain where only everybody's right allows it. */
  private async modeFor({ rights, mode }: FileThere, use: Use): Promise<FileMode> {
    return (await this.slotFor(holders(rights, use))) === undefined ? 'plain' : mode;
  }

  private async open(file: PlanFile, there: FileThere): Promise<FileThere> {
    const rights = buildingRights(file.rights);
    await this.rights(file, there, rights, true);
    return { ...there, mode: file.mode, rights };
  }

  private async rights(file: PlanFile, there: FileThere, rights: PlanFile['rights'], mayFail: boolean): Promise<void> {
    const { host } = this.bringer;
    const { change } = there.rights;
    const slot = await this.slotFor([change]);
    if (slot === undefined && change !== 'free' && mayFail)
      fail(
        'rights-frozen',
        `The rights of file ${file.number} of ${this.application.id} differ, and none of the keys at hand may change them.`,
        { field: 'card' },
        'Have the plan replace the application.',
      );
    await this.bringer.act(this.step('set the rights of file', file.number), this.level, () =>
      host.changeFileSettings(file.number, file.mode, rights, change === 'free'),
    );
  }
}

interface Run {
  from: number;
  to: number;
}

/** The bytes that fields claim, in runs; counters only while their file is not finished. */
function runsOf(fields: readonly Field[], withCounters: boolean): Run[] {
  const runs: Run[] = [];
  for (const { field, from, to } of placed(fields).toSorted((a, b) => a.from - b.from)) {
    if (field.content.is === 'counter' && !withCounters) continue;
    const last = runs.at(-1);
    if (last && last.to >= from) last.to = Math.max(last.to, to);
    else runs.push({ from, to });
  }
  return runs;
}
