import { type Answer, type Body, type Params, hostApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const hostApi = api.injectEndpoints({
  endpoints: (build) => ({
    hosts: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Hosts'],
    }),
    addHost: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
      invalidatesTags: ['Hosts'],
    }),
    revokeHost: build.mutation<Answer<typeof routes.revoke>, Params<typeof routes.revoke>>({
      query: (params) => ask(routes.revoke, params),
      invalidatesTags: ['Hosts'],
    }),
  }),
});
export const { useAddHostMutation, useHostsQuery, useRevokeHostMutation } = hostApi;
