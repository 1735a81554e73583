/**
 * The demo, loaded once for this code and copied from then on: by later starts with an empty data folder, and by every
 * browser test. What is kept is the data folder of a Raw Bits that loaded the demo and was stopped. It is used only where
 * it is whole: a list of its files, each with its size and when it was last written, is written last, and what is kept is
 * held against it before it is copied.
 */
import { createHash } from 'node:crypto';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join, relative } from 'node:path';
import { COPY } from './demoLoad.ts';

/** A demo tells of the days before it was loaded: one older than a day is loaded anew. */
const LONGEST_MS = 24 * 3_600_000;
/** The list of a kept demo's files, beside the folder that holds them. */
const LIST = 'files.json';

interface Kept {
  loadedAt: number;
  /** By their paths in the data folder. */
  files: Record<string, { size: number; mtimeMs: number }>;
}

function filesIn(folder: string, under = folder): string[] {
  return readdirSync(under, { withFileTypes: true }).flatMap((entry) => {
    const path = join(under, entry.name);
    if (entry.isDirectory()) return filesIn(folder, path);
    return entry.isFile() ? [relative(folder, path)] : [];
  });
}

/** What a demo depends on: the built programs that load it and run it, and the migrations. */
export function keyOfCode(dist: string, migrations: string): string {
  const hash = createHash('sha256');
  const programs = ['demo', 'launch', 'rig', 'server', 'worker'].map((name) => join(dist, `${name}.mjs`));
  const statements = readdirSync(migrations)
    .filter((name) => name.endsWith('.sql'))
    .sort()
    .map((name) => join(migrations, name));
  for (const file of [...programs, ...statements]) hash.update(file).update(readFileSync(file));
  return hash.digest('hex').slice(0, 16);
}

export class DemoCache {
  /** `folder` holds the demos of all codes; only that of `key` is kept. */
  constructor(
    private readonly folder: string,
    private readonly key: string,
    private readonly now: () => number = Date.now,
  ) {}

  private get home(): string {
    return join(this.folder, this.key);
  }

  /** Whether one is kept that is whole. */
  get isThere(): boolean {
    return isWhole(join(this.home, 'data'), this.read());
  }

  /** Copies the kept demo into a data folder that has none. */
  copyTo(data: string): void {
    const draft = join(data, COPY);
    rmSync(draft, { recursive: true, force: true });
    cpSync(join(this.home, 'data'), draft, { recursive: true, preserveTimestamps: true });
    for (const name of readdirSync(draft)) renameSync(join(draft, name), join(data, name));
    rmSync(draft, { recursive: true });
  }

  /** A folder for a demo to be loaded into, empty. */
  draft(): string {
    const draft = join(this.folder, `draft.${process.pid}`);
    mkdirSync(this.folder, { recursive: true });
    for (const name of readdirSync(this.folder))
      if (isLeftOver(name)) rmSync(join(this.folder, name), { recursive: true });
    mkdirSync(join(draft, 'data'), { recursive: true, mode: 0o700 });
    return join(draft, 'data');
  }

  /** Keeps the demo that was loaded into the draft and stopped, in place of every other. */
  keep(): void {
    const draft = join(this.folder, `draft.${process.pid}`);
    const data = join(draft, 'data');
    const kept: Kept = {
      loadedAt: this.now(),
      files: Object.fromEntries(filesIn(data).map((name) => [name, of(data, name)])),
    };
    writeFileSync(join(draft, LIST), JSON.stringify(kept), { mode: 0o600 });
    // Kept by another start of the same code meanwhile: it may be copied at this moment.
    if (this.isThere) {
      rmSync(draft, { recursive: true });
      return;
    }
    for (const name of readdirSync(this.folder))
      if (!name.startsWith('draft.')) rmSync(join(this.folder, name), { recursive: true, force: true });
    try {
      renameSync(draft, this.home);
    } catch (error) {
      // Another start has kept one of the same code meanwhile.
      if (!['ENOTEMPTY', 'EEXIST'].includes((error as NodeJS.ErrnoException).code ?? '')) throw error;
      rmSync(draft, { recursive: true });
    }
  }

  private read(): Kept | undefined {
    try {
      const kept = JSON.parse(readFileSync(join(this.home, LIST), 'utf8')) as Kept;
      const ageMs = this.now() - kept.loadedAt;
      return ageMs >= 0 && ageMs < LONGEST_MS ? kept : undefined;
    } catch {
      return undefined;
    }
  }
}

/** Whether it is a draft whose process has ended, or this process's own. */
function isLeftOver(name: string): boolean {
  const pid = Number(/^draft[.](\d+)$/.exec(name)?.[1]);
  return pid === process.pid || (pid > 0 && !existsSync(`/proc/${pid}`));
}

const of = (data: string, name: string): { size: number; mtimeMs: number } => {
  const { size, mtimeMs } = statSync(join(data, name));
  return { size, mtimeMs };
};

function isWhole(data: string, kept: Kept | undefined): boolean {
  try {
    return (
      kept !== undefined &&
      Object.entries(kept.files).every(([name, { size, mtimeMs }]) => {
        const now = of(data, name);
        return now.size === size && now.mtimeMs === mtimeMs;
      })
    );
  } catch {
    return false;
  }
}
