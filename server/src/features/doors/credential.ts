/** A card as a controller knows it, and the hash of it as an item. */
import { createHash } from 'node:crypto';
import { type Credential, canonicalJson, cardKey, type ItemChange, itemHash } from '@rawbits/core/access';
import { eq } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupSetTable } from '../rights/index.ts';

export type CardRow = typeof cardTable.$inferSelect;

export const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
export const hashOf = (key: string, text: string): string => itemHash(sha256, key, text);

const ownGroups = alias(groupSetTable, 'own_groups');

/** Cards with all that a controller knows of them: their holder's name, and the access groups of both. */
export const cardsForControllers = (db: Queryable) =>
  db
    .select({
      card: cardTable,
      holder: cardholderTable.name,
      holdersGroups: groupSetTable.groups,
      ownGroups: ownGroups.groups,
    })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .leftJoin(groupSetTable, eq(groupSetTable.id, cardholderTable.groupSetId))
    .leftJoin(ownGroups, eq(ownGroups.id, cardTable.groupSetId));

interface Known {
  card: CardRow;
  holder: string | null;
  holdersGroups?: unknown;
  ownGroups?: unknown;
}

export function credentialFrom({ card, holder, holdersGroups, ownGroups }: Known): Credential {
  const groups = [...new Set([...((holdersGroups ?? []) as string[]), ...((ownGroups ?? []) as string[])])].sort();
  return {
    id: card.id,
    format: card.formatId,
    facility: card.facility || null,
    number: card.number,
    holder,
    state: card.state as Credential['state'],
    validFrom: card.validFrom?.toISOString() ?? null,
    validTo: card.validTo?.toISOString() ?? null,
    ...(groups.length > 0 && { groups }),
  };
}

/** A card as an item; nothing where it is in stock. */
export const cardItem = (row: Known): ItemChange => [
  cardKey(row.card.id),
  row.card.state === 'in stock' ? null : canonicalJson(credentialFrom(row)),
];
