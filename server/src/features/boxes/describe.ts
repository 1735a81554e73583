/** Boxes as the API gives them, and as core takes them. */
import type { Box, NewBox, newBoxSchema } from '@rawbits/api';
import type { BoxLabel, PrintRule } from '@rawbits/core/box';
import { codeOf } from '@rawbits/core/box';
import type { Format } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { boxTable, countsOfBoxes, numberKey } from '../cards/index.ts';

export type BoxRow = typeof boxTable.$inferSelect;
export type BoxAsked = z.output<typeof newBoxSchema>;

/** What is asked for, as it is kept: the numbers without zeros in front, the code as the cards have it. */
export function rowFrom(format: Format, asked: BoxAsked) {
  const [first, last] = [BigInt(asked.first).toString(), BigInt(asked.last).toString()];
  const { name, formatId, print, values, notes, blanks } = asked;
  const facility = codeOf(format, asked);
  return {
    ...{ name, formatId, facility, first, last, print, values, notes, blanks },
    firstKey: numberKey(first),
    lastKey: numberKey(last),
    count: Number(BigInt(last) - BigInt(first)) + 1,
  };
}

export const labelOf = ({ facility, first, last, print, values }: BoxRow): BoxLabel => ({
  facility: facility || null,
  first,
  last,
  print: print as PrintRule,
  values: values as NonNullable<NewBox['values']>,
});

export async function describeBoxes(db: Queryable, rows: readonly BoxRow[]): Promise<Box[]> {
  const counts = await countsOfBoxes(
    db,
    rows.map(({ id }) => id),
  );
  return rows.map((row) => {
    const { id, name, formatId, count, notes, blanks, enteredBy, enteredAt, revision } = row;
    return {
      ...labelOf(row),
      ...{ id, name, formatId, count, notes, blanks, enteredBy, revision },
      enteredAt: enteredAt.toISOString(),
      states: counts.get(id) as Box['states'],
    };
  });
}

export const ownBox = (site: string, id: string) => and(eq(boxTable.id, id), eq(boxTable.siteId, site));

export async function findBox(db: Queryable, site: string, id: string): Promise<BoxRow> {
  const [row] = await db.select().from(boxTable).where(ownBox(site, id));
  if (!row) throw notFound('box');
  return row;
}
