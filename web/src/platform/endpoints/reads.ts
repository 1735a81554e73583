import { type Answer, type Body, type Params, type Query, readApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const readApi = api.injectEndpoints({
  endpoints: (build) => ({
    reads: build.query<Answer<typeof routes.list>, Params<typeof routes.list> & Query<typeof routes.list>>({
      query: ({ site, limit = 60, ...query }) => ask(routes.list, { site }, { limit, ...query }),
      providesTags: ['Reads'],
    }),
    keepRead: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
    }),
  }),
});
export const { useReadsQuery, useKeepReadMutation } = readApi;
