/** Badges: what is printed on the front of cards. */
import { badgeApi } from '@rawbits/api';
import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { groupedBy } from '../../platform/lists/lists.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { pictureProblem } from '../../platform/shape/picture.ts';
import { change } from '../../platform/trail/change.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { photographTable } from '../people/index.ts';
import { markTable } from './tables.ts';

/** Cards in use come before those that are not. */
const IN_USE = ['active', 'issued', 'suspended'];

const of = handle(badgeApi.of, async ({ app: { db }, site, body: { holders } }) => {
  const people = await db
    .select()
    .from(cardholderTable)
    .where(and(eq(cardholderTable.siteId, site), inArray(cardholderTable.id, holders)));
  if (people.length < new Set(holders).size)
    throw invalid('holders', 'Not all of them are cardholders of this site.', 'Choose those who are on file.');
  const ids = people.map(({ id }) => id);
  const cards = groupedBy(
    await db
      .select()
      .from(cardTable)
      .where(inArray(cardTable.holderId, ids))
      .orderBy(desc(cardTable.createdAt), asc(cardTable.id)),
    ({ holderId }) => holderId!,
  );
  const pictured = new Set(
    (
      await db
        .select({ id: photographTable.holderId })
        .from(photographTable)
        .where(inArray(photographTable.holderId, ids))
    ).map(({ id }) => id),
  );
  const rank = (state: string): number => (IN_USE.indexOf(state) + IN_USE.length + 1) % (IN_USE.length + 1);
  const byId = new Map(people.map((one) => [one.id, one]));
  return [...new Set(holders)].map((id) => {
    const { name, department, organisation, kind } = byId.get(id)!;
    return {
      holder: { id, name, department, organisation, kind, hasPhotograph: pictured.has(id) },
      cards: (cards.get(id) ?? [])
        .sort((a, b) => rank(a.state) - rank(b.state))
        .map((card) => ({
          ...{ id: card.id, number: card.number, printed: card.printed, state: card.state as 'active' },
          facility: card.facility || null,
          validTo: card.validTo?.toISOString() ?? null,
        })),
    };
  });
});

const marks = handle(badgeApi.marks, ({ app: { db }, site }) =>
  db
    .select({ organisation: markTable.organisation, data: markTable.data })
    .from(markTable)
    .where(eq(markTable.siteId, site))
    .orderBy(asc(markTable.organisation)),
);

const setMark = handle(badgeApi.setMark, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const organisation = body.organisation.toLowerCase();
    const own = and(eq(markTable.siteId, site), eq(markTable.organisation, organisation));
    const { data } = body;
    if (data === null) await tx.delete(markTable).where(own);
    else {
      const problem = pictureProblem(data, 'image/png', 'mark');
      if (problem) throw invalid('data', problem, 'Choose a picture: it is made a PNG on screen.');
      await tx.insert(markTable).values({ siteId: site, organisation, data }).onDuplicateKeyUpdate({ set: { data } });
    }
    record.trail({
      action: data === null ? 'mark taken away' : 'mark kept',
      subject: `mark of ${body.organisation || 'the site'}`,
    });
    record.announce('cardholders');
    return {};
  }),
);

export const badgeRoutes = [of, marks, setMark];
