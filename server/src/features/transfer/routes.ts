/** A whole site out of this installation, and into it. */

import { transferApi } from '@rawbits/api';
import { inSnapshot } from '../../platform/database/index.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { sendLines } from '../../platform/http/sending.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { siteLines } from './export.ts';
import { beginImport, finishImport, giveUpImport, takePiece } from './import.ts';

/** Each export has a connection to the database for as long as it lasts: so many at once on a server, and no more. */
const AT_ONCE = 2;
const WAIT_SECONDS = 10;
const underWay = new WeakMap<object, number>();

/** Throws 503 `busy` where enough others are sent by this server at the moment. */
async function inTurn<T>(app: App, work: () => Promise<T>): Promise<T> {
  const key = app.db.$client;
  const others = underWay.get(key) ?? 0;
  if (others >= AT_ONCE)
    throw new HttpProblem(
      503,
      {
        code: 'busy',
        message: `${others} exports are under way already.`,
        hint: 'Try again when one of them is done.',
      },
      WAIT_SECONDS,
    );
  underWay.set(key, others + 1);
  try {
    return await work();
  } finally {
    underWay.set(key, underWay.get(key)! - 1);
  }
}

const exportSite = handle(transferApi.exportSite, ({ app, operator, site, query, response }) =>
  inTurn(app, async () => {
    const history = query.history === 'true';
    await change(app, operator, site, async (_tx, record) => {
      record.trail({ action: 'site exported', subject: 'site', after: { history } });
    });
    const name = `site-${new Date().toISOString().slice(0, 10)}.rawbits.jsonl`;
    response.writeHead(200, {
      'content-type': 'application/x-ndjson; charset=utf-8',
      'content-disposition': `attachment; filename="${name}"`,
    });
    try {
      const about = { siteId: site, by: operator.name, history };
      const whole = await inSnapshot(app.db, (tx) => sendLines(response, siteLines(tx, about)));
      if (!whole) app.log.info({ site }, 'an export was broken off: whoever asked has gone, or takes nothing');
    } catch (error) {
      app.log.warn({ err: error }, 'an export broke off');
      // Without its last line the file is known not to be whole.
      response.destroy();
    }
    return undefined;
  }),
);

const begin = handle(transferApi.begin, ({ app, operator }) => beginImport(app, operator));

const piece = handle(transferApi.piece, ({ app, operator, params, body }) =>
  takePiece(app, operator, params.id!, body.piece, body.lines),
);

const finish = handle(transferApi.finish, ({ app, operator, params, body }) =>
  finishImport(app, operator, params.id!, body),
);

const giveUp = handle(transferApi.giveUp, async ({ app, operator, params }) => {
  await giveUpImport(app, operator, params.id!);
  return {};
});

export const transferRoutes = [exportSite, begin, piece, finish, giveUp];
