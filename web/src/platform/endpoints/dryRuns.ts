import { type Answer, type Body, type Params, dryRunApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type OfRun = Params<typeof routes.one>;

const dryRunApi = api.injectEndpoints({
  endpoints: (build) => ({
    startDryRun: build.mutation<
      Answer<typeof routes.start>,
      Params<typeof routes.start> & { change: Body<typeof routes.start> }
    >({
      query: ({ site, change }) => send(routes.start, { site }, change),
    }),
    dryRun: build.query<Answer<typeof routes.one>, OfRun>({
      query: (run) => ask(routes.one, run),
      keepUnusedDataFor: 0,
    }),
    cancelDryRun: build.mutation<Answer<typeof routes.cancel>, OfRun>({
      query: (run) => ask(routes.cancel, run),
    }),
    applyDryRun: build.mutation<Answer<typeof routes.apply>, OfRun & Body<typeof routes.apply>>({
      query: ({ site, id, ...body }) => send(routes.apply, { site, id }, body),
      invalidatesTags: ['Formats', 'Cards', 'Controllers', 'Trail'],
    }),
  }),
});
export const { useStartDryRunMutation, useDryRunQuery, useCancelDryRunMutation, useApplyDryRunMutation } = dryRunApi;
