/** Access: doors, schedules, holidays, groups and their members, assertions; reviewed before they are saved. */
import { accessApi } from '@rawbits/api';
import type { AccessAssertion } from '@rawbits/core/access/rights';
import { and, eq, sql } from 'drizzle-orm';
import { newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { accessGroupTable, assertionTable, takeTurn } from '../rights/index.ts';
import { passersOf } from './people.ts';
import { brokenBy, reviewed } from './review.ts';
import { saveChange } from './save.ts';
import { assertionsOf, checkGroups, stateOf } from './state.ts';
import { accessOfDoor, accessOfHolder, membersOf, membersPage } from './views.ts';

const SHOWN = 5;

const all = handle(accessApi.all, async ({ app: { db }, site }) => {
  const state = await stateOf(db, site);
  const members = await membersOf(db, site);
  const assertions = await assertionsOf(db, site);
  const passers = await passersOf(db, site);
  return {
    zone: state.zone,
    doors: state.doors.map(({ id, name, controllerId, byGroups, readers, revision }) => ({
      id,
      name,
      controllerId,
      byGroups,
      revision,
      readers: readers.map((reader) => ({ id: reader.id, name: reader.name, way: reader.way })),
    })),
    calendar: { holidays: state.holidays, revision: state.revision },
    schedules: state.schedules,
    groups: state.groups.map((group) => ({ ...group, members: members.get(group.id) ?? 0 })),
    assertions: await Promise.all(
      assertions.map(async ({ id, definition, revision }) => {
        const assertion = JSON.parse(definition) as AccessAssertion;
        return {
          ...assertion,
          id,
          revision,
          broken: await brokenBy(db, assertion, state, passers, { at: 'is', most: SHOWN }),
        };
      }),
    ),
  };
});

const review = handle(accessApi.review, async ({ app: { db }, site, body, response }) => {
  // A review writes nothing: of one that nobody waits for any more nothing is left to do.
  const hasGone = () => response.destroyed || response.closed;
  return (await reviewed(db, site, await stateOf(db, site), body.change, hasGone)).review;
});

const save = handle(accessApi.save, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => ({ id: await saveChange(tx, record, site, body) })),
);

const saveMembers = handle(accessApi.saveMembers, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    await saveChange(tx, record, site, body);
    return {};
  }),
);

const assert = handle(accessApi.assert, ({ app, operator, site, body: { id, revision, ...assertion } }) =>
  change(app, operator, site, async (tx, record) => {
    await takeTurn(tx, site);
    const state = await stateOf(tx, site);
    checkGroups(state, assertion.but);
    if (assertion.doors.some((door) => !state.doors.some((other) => other.id === door)))
      throw invalid('doors', 'There is no such door at this site.');
    const others = await assertionsOf(tx, site);
    const before = others.find((other) => other.id === id);
    if (id !== null && !before) throw notFound('assertion');
    if (before && revision !== undefined && before.revision !== revision)
      throw conflict('changed-meanwhile', 'Somebody changed this assertion meanwhile.', 'Look at it as it is now.');
    if (others.some((other) => other.id !== id && other.name.toLowerCase() === assertion.name.toLowerCase()))
      throw conflict('name-taken', `There is an assertion "${assertion.name}" already.`, 'Take another name.', 'name');
    const own = id ?? newId();
    const row = { name: assertion.name, definition: JSON.stringify(assertion) };
    await tx
      .insert(assertionTable)
      .values({ id: own, siteId: site, ...row })
      .onDuplicateKeyUpdate({ set: { ...row, revision: sql`revision + 1` } });
    record.trail({
      action: before ? 'assertion changed' : 'assertion added',
      subject: `assertion ${assertion.name}`,
      before: before && JSON.parse(before.definition),
      after: { id: own, ...assertion },
    });
    record.announce('access');
    return { id: own };
  }),
);

const withdraw = handle(accessApi.withdraw, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(assertionTable.id, params.id!), eq(assertionTable.siteId, site));
    const [before] = await tx.select().from(assertionTable).where(own).for('update');
    if (!before) throw notFound('assertion');
    await tx.delete(assertionTable).where(own);
    record.trail({
      action: 'assertion removed',
      subject: `assertion ${before.name}`,
      before: JSON.parse(before.definition),
    });
    record.announce('access');
    return {};
  }),
);

const members = handle(accessApi.members, async ({ app: { db }, site, params, query }) => {
  const own = and(eq(accessGroupTable.id, params.id!), eq(accessGroupTable.siteId, site));
  if ((await db.$count(accessGroupTable, own)) === 0) throw notFound('access group');
  return membersPage(db, site, params.id!, query);
});

const ofHolder = handle(accessApi.ofHolder, ({ app: { db }, site, params, query }) =>
  accessOfHolder(db, site, params.id!, query),
);

const ofDoor = handle(accessApi.ofDoor, ({ app: { db }, site, params, query }) =>
  accessOfDoor(db, site, params.id!, query.way, query),
);

export const accessRoutes = [all, review, save, saveMembers, assert, withdraw, members, ofHolder, ofDoor];
