/** On which cards a version of a format has proved itself. Written by what happened, never typed in. */

import { createHash } from 'node:crypto';
import { type Layout, printLayoutLine } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { formatEvidenceTable, formatVersionTable } from './tables.ts';

/** A card of a site as it is counted: by a hash, once. */
const cardHash = (siteId: string, bits: string): string =>
  createHash('sha256').update(`${siteId} ${bits}`).digest('hex');

/** Notes cards on which the version with this layout proved itself; a layout that no version has is passed over. */
export async function noteEvidence(
  tx: Queryable,
  of: { siteId: string; formatId: string; layout: Layout; source: 'presented' | 'case'; sourceId: string },
  cards: readonly string[],
): Promise<void> {
  const [row] = await tx
    .select({ version: formatVersionTable.version })
    .from(formatVersionTable)
    .where(
      and(eq(formatVersionTable.formatId, of.formatId), eq(formatVersionTable.layout, printLayoutLine(of.layout))),
    );
  if (!row || cards.length === 0) return;
  const { formatId, source, sourceId } = of;
  const at = new Date();
  await tx
    .insert(formatEvidenceTable)
    .ignore()
    .values(
      cards.map((bits) => ({ formatId, version: row.version, card: cardHash(of.siteId, bits), source, sourceId, at })),
    );
}
