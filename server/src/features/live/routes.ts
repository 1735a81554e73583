/** The live feed of a site as server-sent events. */
import { liveApi } from '@rawbits/api';
import { handle } from '../../platform/http/app.ts';

const listen = handle(liveApi.listen, async ({ app, site, operator, query, request, response }) => {
  const header = request.headers['last-event-id'];
  const last = typeof header === 'string' && /^\d{1,15}$/.test(header) ? Number(header) : query.after;
  await app.live.listen(response, { siteId: site, operatorId: operator.id, tokenHash: operator.tokenHash }, last);
  return undefined;
});

export const liveRoutes = [listen];
