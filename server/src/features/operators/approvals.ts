/**
 * The second person: nobody alone makes, changes or closes a key custodian. Whoever manages operators asks for it; another
 * who does, or another custodian, agrees at their own sign-in, and then it is done. Both stand in the trail.
 */
import { type Approval, approvalApi } from '@rawbits/api';
import { and, asc, eq, not } from 'drizzle-orm';
import { endsWithin, newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { conflict, forbidden, notFound } from '../../platform/problem/problem.ts';
import { may, type Person, rolesOf } from '../../platform/session/sessions.ts';
import { change } from '../../platform/trail/change.ts';
import { type Act, actSchema, checkMay, inWords, perform } from './acts.ts';
import { approvalTable } from './tables.ts';

const GOOD_FOR_MS = 7 * 86_400_000;

type Row = typeof approvalTable.$inferSelect;

const describe = (row: Row, asking: Person): Approval => ({
  id: row.id,
  what: row.what,
  askedBy: row.askedBy,
  askedAt: row.askedAt.toISOString(),
  endsAt: row.endsAt.toISOString(),
  mayAgree: asking.id !== row.askedById && asking.id !== row.subjectId,
});

const isOpen = (siteId: string) =>
  and(eq(approvalTable.siteId, siteId), eq(approvalTable.state, 'open'), endsWithin(approvalTable.endsAt, GOOD_FOR_MS));

/** Keeps an act until a second person agrees. */
export async function askForSecond(app: App, asking: Asking, siteId: string, act: Act): Promise<Approval> {
  return change(app, asking, siteId, async (tx, record) => {
    const now = new Date();
    const row: Row = {
      id: newId(),
      siteId,
      subjectId: act.kind === 'add' ? null : act.id,
      what: (await inWords(tx, act)).slice(0, 400),
      act,
      state: 'open',
      askedById: asking.id,
      askedBy: asking.name,
      askedAt: now,
      endsAt: new Date(now.getTime() + GOOD_FOR_MS),
    };
    await tx.insert(approvalTable).values(row);
    record.trail({ action: 'second person asked for', subject: row.what.slice(0, 200) });
    record.announce('operators');
    return describe(row, asking);
  });
}

/** Forgets what was to be done where nobody agreed in time. */
export const forgetUnanswered = (db: Queryable) =>
  db
    .update(approvalTable)
    .set({ state: 'refused', act: null })
    .where(and(eq(approvalTable.state, 'open'), not(endsWithin(approvalTable.endsAt, GOOD_FOR_MS)!)));

const list = handle(approvalApi.list, async ({ app, operator, site }) =>
  (await app.db.select().from(approvalTable).where(isOpen(site)).orderBy(asc(approvalTable.askedAt))).map((row) =>
    describe(row, operator),
  ),
);

/** Takes an open approval for this call alone, and forgets what was to be done. */
async function take(tx: Queryable, siteId: string, id: string, state: 'agreed' | 'refused'): Promise<Row> {
  const own = and(eq(approvalTable.id, id), isOpen(siteId));
  const [row] = await tx.select().from(approvalTable).where(own).for('update');
  const [taken] = row ? await tx.update(approvalTable).set({ state, act: null }).where(own) : [];
  if (!row || taken?.affectedRows !== 1) throw notFound('request for a second person');
  return row;
}

/** Whoever asked, with their roles as they are now. */
const askerOf = async (tx: Queryable, row: Row): Promise<Person> => ({
  id: row.askedById,
  name: row.askedBy,
  roles: await rolesOf(tx, row.askedById),
});

const agree = handle(approvalApi.agree, async ({ app, operator, site, params }) => {
  await change(app, operator, site, async (tx, record) => {
    const row = await take(tx, site, params.id!, 'agreed');
    if (!describe(row, operator).mayAgree)
      throw forbidden(
        operator.id === row.askedById ? 'You asked for it yourself.' : 'It is about yourself.',
        'Another administrator or key custodian has to agree.',
      );
    const asker = await askerOf(tx, row);
    if (!may(asker, site, 'manage operators'))
      throw conflict('asker-gone', `${row.askedBy} does not manage operators here any more.`, 'Ask for it anew.');
    const act = actSchema.parse(row.act);
    await checkMay(tx, asker, site, act);
    record.trail({ action: 'agreed', subject: row.what.slice(0, 200), after: { askedBy: row.askedBy } });
    await perform(tx, record, asker, site, act, { askedBy: row.askedBy, agreedBy: operator.name });
  });
  await app.live.checkNow();
  return {};
});

const refuse = handle(approvalApi.refuse, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await take(tx, site, params.id!, 'refused');
    const action = operator.id === row.askedById ? 'request taken back' : 'refused';
    record.trail({ action, subject: row.what.slice(0, 200), after: { askedBy: row.askedBy } });
    record.announce('operators');
    return {};
  }),
);

export const approvalRoutes = [list, agree, refuse];
