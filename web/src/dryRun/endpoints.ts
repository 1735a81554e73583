import type { DryRunState, SiteChange } from '@rawbits/core/api';
import { api } from '../app/api.ts';

interface OfRun {
  site: string;
  id: string;
}

const dryRunApi = api.injectEndpoints({
  endpoints: (build) => ({
    startDryRun: build.mutation<DryRunState, { site: string; change: SiteChange }>({
      query: ({ site, change }) => ({ path: `/sites/${site}/dry-runs`, method: 'POST', body: change }),
    }),
    dryRun: build.query<DryRunState, OfRun>({
      query: ({ site, id }) => ({ path: `/sites/${site}/dry-runs/${id}` }),
      keepUnusedDataFor: 0,
    }),
    cancelDryRun: build.mutation<DryRunState, OfRun>({
      query: ({ site, id }) => ({ path: `/sites/${site}/dry-runs/${id}/cancel`, method: 'POST' }),
    }),
    applyDryRun: build.mutation<DryRunState, OfRun & { refuses: number }>({
      query: ({ site, id, refuses }) => ({
        path: `/sites/${site}/dry-runs/${id}/apply`,
        method: 'POST',
        body: { refuses },
      }),
      invalidatesTags: ['Formats', 'Cards', 'Controllers', 'Trail'],
    }),
  }),
});
export const { useStartDryRunMutation, useDryRunQuery, useCancelDryRunMutation, useApplyDryRunMutation } = dryRunApi;
