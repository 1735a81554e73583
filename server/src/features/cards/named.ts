/** Finding cardholders by name. */
import { and, eq, like, type SQL, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable } from './tables.ts';

/** So many are found in each way: by the beginning of a name, and by words within it. */
const MOST_HOLDERS = 300;

/** A text as `like` takes it. */
export const escaped = (text: string): string => text.replace(/[\\%_]/g, '\\$&');

/** The cardholders whose name, or a word of it, begins so. */
export async function holdersNamed(db: Queryable, siteId: string, text: string): Promise<string[]> {
  const own = eq(cardholderTable.siteId, siteId);
  const named = (where: SQL) =>
    db.select({ id: cardholderTable.id }).from(cardholderTable).where(and(own, where)).limit(MOST_HOLDERS);
  const beginning = await named(like(cardholderTable.name, `${escaped(text)}%`));
  // Words of fewer than three letters are not in the index of words.
  const words = text.split(/[^\p{L}\p{N}]+/u).filter((word) => word.length >= 3);
  const within =
    words.length === 0
      ? []
      : await named(
          sql`match(${cardholderTable.name}) against (${words.map((word) => `+${word}*`).join(' ')} in boolean mode)`,
        );
  return [...new Set([...beginning, ...within].map(({ id }) => id))];
}
