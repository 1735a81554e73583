/** How a site keeps its cardholders: PINs, and what an organisation or a kind brings. */
import { type CardholderRules, cardholderApi, cardholderRulesSchema } from '@rawbits/api';
import { eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { accessGroupTable, sitesRights, takeTurn } from '../rights/index.ts';
import { cardholderRulesTable, pinTable } from './tables.ts';

export async function rulesOf(db: Queryable, siteId: string): Promise<CardholderRules> {
  const [row] = await db.select().from(cardholderRulesTable).where(eq(cardholderRulesTable.siteId, siteId));
  if (!row) return cardholderRulesSchema.parse({});
  const { pinDigits, pinsDiffer, brings, revision } = row;
  const own = eq(accessGroupTable.siteId, siteId);
  const groups = new Set(
    (await db.select({ id: accessGroupTable.id }).from(accessGroupTable).where(own)).map((g) => g.id),
  );
  // A group that was removed since is brought to nobody.
  const kept = (brings as CardholderRules['brings']).map((rule) => ({
    ...rule,
    groups: rule.groups.filter((id) => groups.has(id)),
  }));
  return { pinDigits, pinsDiffer, brings: kept, revision };
}

/** What somebody's organisation and kind bring: all groups of it, and the shortest life of a card. */
export function broughtTo(
  { brings }: CardholderRules,
  { organisation, kind }: { organisation: string; kind: string },
): { groups: string[]; days: number | null } {
  const is = (asked: string, theirs: string) => asked === '' || asked.toLowerCase() === theirs.trim().toLowerCase();
  const own = brings.filter((rule) => is(rule.organisation, organisation) && is(rule.kind, kind));
  const days = own.flatMap((rule) => rule.days ?? []);
  return {
    groups: [...new Set(own.flatMap((rule) => rule.groups))],
    days: days.length === 0 ? null : Math.min(...days),
  };
}

export const rules = handle(cardholderApi.rules, ({ app, site }) => rulesOf(app.db, site));

export const setRules = handle(cardholderApi.setRules, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    await takeTurn(tx, site);
    const before = await rulesOf(tx, site);
    if (before.revision !== body.revision)
      throw conflict('changed-meanwhile', 'Somebody changed these rules meanwhile.', 'Look at them as they are now.');
    const { groups } = await sitesRights(tx, site);
    for (const [i, { groups: named, organisation, kind }] of body.brings.entries()) {
      if (named.some((id) => !groups.some((group) => group.id === id)))
        throw invalid('brings', `Line ${i + 1}: there is no such access group at this site.`);
      if (organisation === '' && kind === '')
        throw invalid('brings', `Line ${i + 1} names neither an organisation nor a kind.`, 'Give one of them.');
    }
    if (body.pinDigits !== before.pinDigits && (await tx.$count(pinTable, eq(pinTable.siteId, site))) > 0)
      throw conflict(
        'pins-set',
        `There are PINs of ${before.pinDigits} digits already.`,
        'Take them away first: nobody can make longer ones of them.',
        'pinDigits',
      );
    const row = { ...body, revision: before.revision + 1 };
    await tx
      .insert(cardholderRulesTable)
      .values({ siteId: site, ...row })
      .onDuplicateKeyUpdate({ set: row });
    record.trail({ action: 'rules changed', subject: 'rules of cardholders', before, after: row });
    record.announce('cardholders');
    return row;
  }),
);
