/** What is known of a card for the fields of a plan: from the card on file and whoever holds it. */
import { Bits } from '@rawbits/core/bits';
import type { Known } from '@rawbits/core/plan';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { siteTable } from '../sites/index.ts';

export interface CardKnown extends Known {
  /** Facility code and number. */
  called: string;
  holder: string | null;
}

/** What is known of some cards of a site, by their identifiers. */
export async function knownOf(db: Queryable, site: string, ids: readonly string[]): Promise<Map<string, CardKnown>> {
  if (ids.length === 0) return new Map();
  const [place] = await db.select().from(siteTable).where(eq(siteTable.id, site));
  const day = new Intl.DateTimeFormat('en-CA', { timeZone: place?.timeZone ?? 'UTC', dateStyle: 'short' });
  const rows = await db
    .select({ card: cardTable, holder: cardholderTable })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.siteId, site), inArray(cardTable.id, [...ids])));
  return new Map(
    rows.map(({ card, holder }) => {
      const values: Record<string, string> = { number: card.number, site: place?.name ?? '' };
      const give = (name: string, value: string | null | undefined) => {
        if (value) values[name] = value;
      };
      give('facility', card.facility);
      give('printed', card.printed);
      give('holder', holder?.name);
      give('department', holder?.department);
      give('valid from', card.validFrom && day.format(card.validFrom));
      give('valid to', card.validTo && day.format(card.validTo));
      const called = `${card.facility ? `${card.facility}/` : ''}${card.number}`;
      return [
        card.id,
        { values, ...(card.bits && { bits: Bits.fromBinary(card.bits) }), called, holder: holder?.name ?? null },
      ];
    }),
  );
}

/** What the fields of plans may take, for whoever writes one. */
export const NOTHING_KNOWN: Known = { values: {} };
