/** Formats of a file and those of the library here: the same under one name, new, or to be called otherwise. */
import type { SiteLineOf } from '@rawbits/api';
import { assertSound, type Format, printLayoutLine } from '@rawbits/core/format';
import { eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { formatTable, insertFormat, insertVersion, versionsOf } from '../library/index.ts';

type Version = SiteLineOf<'format'>['versions'][number];

/** What becomes of a format of the file. */
export interface FormatPlan {
  from: string;
  to: string;
  /** The version here that the site uses; null where it uses none. */
  uses: number | null;
  /** What is put into the library; empty where it has what is used already. */
  adds: Version[];
}

const has = async (db: Queryable, id: string): Promise<boolean> =>
  (await db.$count(formatTable, eq(formatTable.id, id))) > 0;

/** The version here with this layout, or undefined. */
async function alike(db: Queryable, id: string, format: Format): Promise<number | undefined> {
  const layout = printLayoutLine(format);
  return (await versionsOf(db, id)).find((here) => here.layout === layout)?.version;
}

/** Throws a failure where a version is no sound format. */
export async function planFormat(
  db: Queryable,
  line: SiteLineOf<'format'>,
  taken: ReadonlySet<string>,
): Promise<FormatPlan> {
  const { versions } = line;
  for (const { format } of versions) assertSound(format);
  const used = versions.find(({ version }) => version === line.uses);
  const from = versions[0]!.format.id;
  const wanted = used ?? versions.at(-1)!;
  if (await has(db, from)) {
    const here = await alike(db, from, wanted.format);
    if (here !== undefined) return { from, to: from, uses: used ? here : null, adds: [] };
  }
  let to = from;
  for (let i = 2; taken.has(to) || (await has(db, to)); i++) to = `${from.slice(0, 36)}-${i}`;
  // Numbered anew from 1: the file may come from a library that gave some up.
  return { from, to, uses: used ? versions.indexOf(used) + 1 : null, adds: versions };
}

/** Puts what is new into the library; false where somebody else has put another one there meanwhile. */
export async function addFormat(tx: Queryable, { to, adds }: FormatPlan, by: string): Promise<boolean> {
  if (adds.length === 0) return true;
  if (await has(tx, to)) return false;
  const note = (version: Version) => `${version.reason} (${version.createdBy})`.slice(0, 400);
  await insertFormat(tx, { ...adds[0]!.format, id: to }, by, note(adds[0]!));
  for (const [i, version] of adds.slice(1).entries())
    await insertVersion(tx, { ...version.format, id: to }, i + 1, by, note(version));
  return true;
}
