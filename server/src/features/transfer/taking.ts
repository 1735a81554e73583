/** What taking lines of any kind stands on: what is called how here, rows put on file, and what a line names looked for. */
import type { SiteLine, SiteLineOf } from '@rawbits/api';
import { and, eq, inArray } from 'drizzle-orm';
import type { MySqlTable } from 'drizzle-orm/mysql-core';
import { derivedId, type Queryable } from '../../platform/database/index.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';
import type { boxTable, cardholderTable, cardTable } from '../cards/index.ts';
import type { controllerTable, doorTable, readerTable } from '../doors/index.ts';
import type { accessGroupTable, scheduleTable } from '../rights/index.ts';

/** A line with its number in the file, from 1. */
export interface Numbered<L extends SiteLine = SiteLine> {
  line: L;
  row: number;
}

export const wrongLine = (row: number, message: string, hint?: string) =>
  new HttpProblem(422, {
    code: 'site-file',
    message: `Line ${row}: ${message}`,
    hint: hint ?? 'Nothing of this site is kept until all of the file can be taken.',
    where: { row },
  });

export interface Taking {
  siteId: string;
  /** What the formats of the file are called here. */
  formats: ReadonlyMap<string, string>;
}

export const moment = (text: string): Date => new Date(text);
export const momentOrNull = (text: string | null): Date | null => (text === null ? null : new Date(text));

export const own = ({ siteId }: Taking, name: string): string => derivedId(siteId, name);
export const ownOrNull = (taking: Taking, name: string | null): string | null =>
  name === null ? null : own(taking, name);

export type Takes<K extends SiteLine['kind']> = (
  tx: Queryable,
  taking: Taking,
  lines: readonly Numbered<SiteLineOf<K>>[],
) => Promise<void>;

/** One row a line. */
export async function insert<L extends SiteLine, T extends MySqlTable>(
  tx: Queryable,
  table: T,
  lines: readonly Numbered<L>[],
  rowOf: (line: Numbered<L>) => T['$inferInsert'],
): Promise<void> {
  await tx.insert(table).values(lines.map(rowOf) as never);
}

type Nameable =
  | typeof boxTable
  | typeof cardholderTable
  | typeof cardTable
  | typeof controllerTable
  | typeof readerTable
  | typeof doorTable
  | typeof scheduleTable
  | typeof accessGroupTable;

/** Throws where a line names something of a table that no line before it has. */
export const checkNamed = <L extends SiteLine>(
  tx: Queryable,
  taking: Taking,
  table: Nameable,
  lines: readonly Numbered<L>[],
  nameIn: (line: L) => string | null,
  what: string,
): Promise<void> => checkAll(tx, taking, table, lines, (line) => [nameIn(line)].flatMap((name) => name ?? []), what);

/** As `checkNamed`, of lines that name several. */
export async function checkAll<L extends SiteLine>(
  tx: Queryable,
  { siteId }: Taking,
  table: Nameable,
  lines: readonly Numbered<L>[],
  namesIn: (line: L) => readonly string[],
  what: string,
): Promise<void> {
  const named = new Map<string, { row: number; name: string }>();
  for (const { line, row } of lines)
    for (const name of namesIn(line)) named.set(derivedId(siteId, name), { row, name });
  if (named.size === 0) return;
  const known = await tx
    .select({ id: table.id })
    .from(table)
    .where(and(eq(table.siteId, siteId), inArray(table.id, [...named.keys()])));
  for (const { id } of known) named.delete(id);
  const [missing] = named.values();
  if (missing) throw wrongLine(missing.row, `it names the ${what} "${missing.name}", which no line before it has.`);
}
