/** A card as a controller knows it, and the hash of it as an item. */
import { createHash } from 'node:crypto';
import { type Credential, canonicalJson, cardKey, type ItemChange, itemHash } from '@rawbits/core/access';
import type { cardTable } from '../cards/index.ts';

export type CardRow = typeof cardTable.$inferSelect;

export const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
export const hashOf = (key: string, text: string): string => itemHash(sha256, key, text);

export function credentialFrom({ card, holder }: { card: CardRow; holder: string | null }): Credential {
  return {
    id: card.id,
    format: card.formatId,
    facility: card.facility || null,
    number: card.number,
    holder,
    state: card.state as Credential['state'],
    validFrom: card.validFrom?.toISOString() ?? null,
    validTo: card.validTo?.toISOString() ?? null,
  };
}

/** A card as an item; nothing where it is in stock. */
export const cardItem = (row: { card: CardRow; holder: string | null }): ItemChange => [
  cardKey(row.card.id),
  row.card.state === 'in stock' ? null : canonicalJson(credentialFrom(row)),
];
