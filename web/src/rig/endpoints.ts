import type { Presented, RigState } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const rigApi = api.injectEndpoints({
  endpoints: (build) => ({
    rig: build.query<RigState, string>({ query: (site) => ({ path: `/sites/${site}/rig` }), providesTags: ['Rig'] }),
    present: build.mutation<Presented, { site: string; card: string; reader: string }>({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/rig/presentations`, method: 'POST', body }),
    }),
  }),
});
export const { useRigQuery, usePresentMutation } = rigApi;
