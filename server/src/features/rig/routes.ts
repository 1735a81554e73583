/** The rig as a site sees it: its tray, its readers, and presenting a credential. */

import { type Reader, type RigState, rigApi } from '@rawbits/api';
import { and, asc, eq } from 'drizzle-orm';
import type { RigClient } from '../../devices/client.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { readerTable } from '../doors/index.ts';
import { siteTable } from '../sites/index.ts';
import { bringIn } from './bringIn.ts';
import type { RigIngest } from './ingest.ts';

/** The rig of a site, or a clear refusal. */
async function rigOf(app: App, siteId: string): Promise<RigClient> {
  const [site] = await app.db.select().from(siteTable).where(eq(siteTable.id, siteId));
  if (!site?.hasRig) throw notFound('rig');
  if (!app.rig) throw new HttpProblem(503, { code: 'rig-away', message: 'No rig runs beside this server.' });
  return app.rig;
}

const away = (error: unknown) =>
  new HttpProblem(503, {
    code: 'rig-away',
    message: (error as Error).message,
    hint: 'Start Raw Bits again with bin/start.',
  });

const state = handle(rigApi.state, ({ app, site }) => stateOf(app, site));

async function stateOf(app: App, site: string): Promise<RigState> {
  const rig = await rigOf(app, site);
  const readers = await app.db
    .select()
    .from(readerTable)
    .where(eq(readerTable.siteId, site))
    .orderBy(asc(readerTable.kind), asc(readerTable.name));
  const described = readers.map((row) => ({ ...row, kind: row.kind as Reader['kind'] }));
  try {
    const { site: theirs, cards } = await rig.devices();
    if (theirs !== site) return { answers: false, cards: [], readers: described };
    return { answers: true, cards, readers: described };
  } catch {
    return { answers: false, cards: [], readers: described };
  }
}

const bring = handle(rigApi.bringIn, async ({ app, operator, site }) => {
  await bringIn(app, operator, site);
  return stateOf(app, site);
});

const present = (ingest: () => RigIngest | undefined) =>
  handle(rigApi.present, async ({ app, site, body }) => {
    const rig = await rigOf(app, site);
    const [reader] = await app.db
      .select()
      .from(readerTable)
      .where(and(eq(readerTable.id, body.reader), eq(readerTable.siteId, site)));
    if (!reader) throw notFound('reader');
    const { id, message } = await rig.present(site, body.card, reader.device).catch((error) => {
      throw away(error);
    });
    if (id === null) return { readId: null, eventId: null, outcome: 'nothing' as const, reason: message };
    const ingested = await ingest()?.upTo(id);
    if (!ingested)
      throw new HttpProblem(503, {
        code: 'rig-late',
        message: 'The reader has it, but it has not come in yet.',
        hint: 'It will show shortly.',
      });
    return { readId: ingested.readId, eventId: ingested.eventId, outcome: ingested.outcome, reason: ingested.reason };
  });

export const rigRoutes = (ingest: () => RigIngest | undefined) => [state, bring, present(ingest)];
