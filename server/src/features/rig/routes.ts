/** The rig as a site sees it: its tray, its readers, and presenting a credential. */

import { type Reader, type RigState, rigApi } from '@rawbits/api';
import { and, asc, eq } from 'drizzle-orm';
import { type App, handle } from '../../platform/http/app.ts';
import { HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { readerTable } from '../doors/index.ts';
import { siteTable } from '../sites/index.ts';
import { away, checkCredential } from './away.ts';
import { bringIn, setUpRig } from './bringIn.ts';
import type { LogIngest } from './ingest.ts';
import { padRoutes } from './pad.ts';

/** Refuses where a site has no rig. */
async function checkRig(app: App, siteId: string): Promise<void> {
  const [site] = await app.db.select().from(siteTable).where(eq(siteTable.id, siteId));
  if (!site?.hasRig) throw notFound('rig');
}

const state = handle(rigApi.state, ({ app, site }) => stateOf(app, site));

async function stateOf(app: App, site: string): Promise<RigState> {
  await checkRig(app, site);
  const readers = await app.db
    .select()
    .from(readerTable)
    .where(eq(readerTable.siteId, site))
    .orderBy(asc(readerTable.kind), asc(readerTable.name));
  const described = readers.map((row) => ({ ...row, kind: row.kind as Reader['kind'], way: row.way as Reader['way'] }));
  const offered = await app.devices.of(site);
  return { answers: offered !== undefined, cards: offered?.cards ?? [], readers: described };
}

const bring = handle(rigApi.bringIn, async ({ app, operator, site }) => {
  await bringIn(app, operator, site);
  return stateOf(app, site);
});

const setUp = handle(rigApi.setUp, async ({ app, operator, site, body }) => {
  await setUpRig(app, operator, site, body);
  return stateOf(app, site);
});

const present = (ingest: () => LogIngest) =>
  handle(rigApi.present, async ({ app, site, body }) => {
    await checkRig(app, site);
    const [reader] = await app.db
      .select()
      .from(readerTable)
      .where(and(eq(readerTable.id, body.reader), eq(readerTable.siteId, site)));
    if (!reader) throw notFound('reader');
    checkCredential(body.card);
    const { id, message } = await app.devices.present(site, body.card, reader.device).catch((error) => {
      throw away(error);
    });
    if (id === null) return { readId: null, eventId: null, outcome: 'nothing' as const, reason: message };
    const ingested = await ingest().upTo(id);
    if (!ingested)
      throw new HttpProblem(503, {
        code: 'rig-late',
        message: 'The reader has it, but it has not come in yet.',
        hint: 'It will show shortly.',
      });
    return { readId: ingested.readId, eventId: ingested.eventId, outcome: ingested.outcome, reason: ingested.reason };
  });

export const rigRoutes = (ingest: () => LogIngest) => [state, bring, setUp, present(ingest), ...padRoutes];
