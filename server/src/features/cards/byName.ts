/** Pages of cardholders by name: where one ended, and what comes after it. */
import { and, eq, gt, gte, or, type SQL } from 'drizzle-orm';
import { z } from 'zod';
import { invalid } from '../../platform/problem/problem.ts';
import { cardholderTable } from './tables.ts';

/** A name, and the cardholder of it. */
const cursorSchema = z.tuple([z.string().max(120), z.string().max(40)]);

export const cursorAt = ({ name, id }: { name: string; id: string }): string =>
  Buffer.from(JSON.stringify([name, id])).toString('base64url');

/** Those who come after; the bare limit on the name lets the index find the page. Throws `after` where no page ended so. */
export function afterCursor(after: string): SQL | undefined {
  const cursor = cursorSchema.safeParse(parsed(Buffer.from(after, 'base64url').toString('utf8')));
  if (!cursor.success) throw invalid('after', 'This is not where a page ended.', 'Begin at the first page again.');
  const [name, id] = cursor.data;
  const { name: along } = cardholderTable;
  return and(gte(along, name), or(gt(along, name), and(eq(along, name), gt(cardholderTable.id, id))));
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
