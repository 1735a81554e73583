/**
 * The cards on file that a page of reads can be decided on: fetched by their numbers for each page and forgotten with it,
 * so that memory does not grow with the cards.
 */
import { type Credential, type Lookup, lookupIn } from '@rawbits/core/access';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardTable } from '../cards/index.ts';

/** MariaDB makes a table of a longer list first (`in_predicate_conversion_threshold`). */
const NUMBERS_A_QUERY = 900;
/** What a decision asks of a card; who holds it is not shown. */
const DECIDES = {
  id: cardTable.id,
  format: cardTable.formatId,
  facility: cardTable.facility,
  number: cardTable.number,
  state: cardTable.state,
  validFrom: cardTable.validFrom,
  validTo: cardTable.validTo,
};
const none: Lookup = () => undefined;

export class CardsAtHand {
  private today: Lookup = none;
  private afterwards: Lookup = none;
  readonly before: Lookup = (number) => this.today(number);
  /** The same function as `before` where the change leaves cards as they are. */
  readonly after: Lookup;

  constructor(
    private readonly siteId: string,
    private readonly changed?: (card: Credential) => Credential,
  ) {
    this.after = changed ? (number) => this.afterwards(number) : this.before;
  }

  /** Fetches the cards of these numbers in place of the last ones. */
  async take(db: Queryable, numbers: readonly string[]): Promise<void> {
    const credentials: Credential[] = [];
    for (let from = 0; from < numbers.length; from += NUMBERS_A_QUERY) {
      const some = inArray(cardTable.number, numbers.slice(from, from + NUMBERS_A_QUERY));
      const rows = await db
        .select(DECIDES)
        .from(cardTable)
        .where(and(eq(cardTable.siteId, this.siteId), some));
      for (const row of rows)
        credentials.push({
          ...row,
          facility: row.facility || null,
          holder: null,
          state: row.state as Credential['state'],
          validFrom: row.validFrom?.toISOString() ?? null,
          validTo: row.validTo?.toISOString() ?? null,
        });
    }
    this.today = lookupIn(credentials);
    if (this.changed) this.afterwards = lookupIn(credentials.map(this.changed));
  }
}
