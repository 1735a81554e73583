/** A whole site out of this installation, and into it. */

import { once } from 'node:events';
import { transferApi } from '@rawbits/api';
import { inSnapshot } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { siteLines } from './export.ts';
import { beginImport, finishImport, giveUpImport, takePiece } from './import.ts';

/** Sent so many characters at once. */
const CHUNK = 64_000;

const exportSite = handle(transferApi.exportSite, async ({ app, operator, site, query, response }) => {
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
    await inSnapshot(app.db, async (tx) => {
      let text = '';
      for await (const line of siteLines(tx, { siteId: site, by: operator.name, history })) {
        text += `${line}\n`;
        if (text.length < CHUNK) continue;
        if (!response.write(text)) await Promise.race([once(response, 'drain'), once(response, 'close')]);
        // Whoever asked has gone.
        if (response.destroyed) return;
        text = '';
      }
      response.end(text);
    });
  } catch (error) {
    app.log.warn({ err: error }, 'an export broke off');
    // Without its last line the file is known not to be whole.
    response.destroy();
  }
  return undefined;
});

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
