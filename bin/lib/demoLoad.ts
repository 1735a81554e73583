/**
 * The mark of a demo that is being loaded. It is made when the load begins in an empty database and taken away when it
 * has ended, so that one that was broken off is known. What it left is put aside, never deleted: somebody may have
 * worked on it since.
 */
import { existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { RESTORE_MARK } from './restoreMark.ts';

export const MARK = 'demo-unfinished';
/** Stands where the demo was loaded whole: what is there may be thrown away and made anew. */
export const DEMO = 'demo';
/** Where a kept demo is copied to before it is put in its place. */
export const COPY = 'demo-copy';
/** What a load makes, in the data folder. */
export const PARTS = ['mariadb', 'rig', 'state'];

export class DemoLoad {
  constructor(
    private readonly data: string,
    private readonly say: (sentence: string) => void = console.log,
  ) {}

  private get mark(): string {
    return join(this.data, MARK);
  }

  begin(): void {
    writeFileSync(this.mark, new Date().toISOString(), { flag: 'wx' });
  }

  /** The demo is there whole. */
  done(): void {
    writeFileSync(join(this.data, DEMO), new Date().toISOString());
    this.end();
  }

  end(): void {
    rmSync(this.mark, { force: true });
  }

  /** Whether there is nothing, or the demo and no more than came of it. */
  get isDemo(): boolean {
    return existsSync(join(this.data, DEMO)) || !PARTS.some((name) => existsSync(join(this.data, name)));
  }

  /** Whether nothing that a load makes is there, nor one that was broken off. */
  get isEmpty(): boolean {
    return ![...PARTS, MARK, DEMO].some((name) => existsSync(join(this.data, name)));
  }

  /** Deletes all that a load makes. */
  clearAway(): void {
    // What a killed database began to write may still be written for a moment.
    const gone = { recursive: true, force: true, maxRetries: 50, retryDelay: 50 };
    for (const name of [...PARTS, COPY, MARK, DEMO, RESTORE_MARK]) rmSync(join(this.data, name), gone);
  }

  /** Where the last load was broken off: puts what there is aside, or keeps it when no demo is wanted now. */
  lookAfterBroken(demoIsWanted: boolean): void {
    if (!existsSync(this.mark)) return;
    if (!demoIsWanted) {
      this.end();
      rmSync(join(this.data, COPY), { recursive: true, force: true });
      this.say('Loading the demo was broken off here once; what there is of it is kept as it is.');
      return;
    }
    rmSync(join(this.data, COPY), { recursive: true, force: true });
    if (!PARTS.some((name) => existsSync(join(this.data, name)))) {
      this.end();
      return;
    }
    const aside = join(this.data, `set-aside-${new Date().toISOString().replace(/[:.]/g, '-')}`);
    mkdirSync(aside);
    for (const name of PARTS)
      if (existsSync(join(this.data, name))) renameSync(join(this.data, name), join(aside, name));
    this.end();
    this.say(`Loading the demo was broken off last time. It is loaded anew; what there was lies in ${aside}.`);
  }
}
