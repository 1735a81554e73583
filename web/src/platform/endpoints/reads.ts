import { type Answer, type Body, type Params, type Query, readApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

/** How many of the newest are shown where nobody says otherwise. */
export const NEWEST_READS = 60;

export const readApi = api.injectEndpoints({
  endpoints: (build) => ({
    reads: build.query<Answer<typeof routes.list>, Params<typeof routes.list> & Query<typeof routes.list>>({
      query: ({ site, limit = NEWEST_READS, ...query }) => ask(routes.list, { site }, { limit, ...query }),
      // A read that arrives is put into the list of the newest; what was searched for is asked for again.
      providesTags: (_reads, _error, { search }) => [{ type: 'Reads', id: search ? 'found' : 'newest' }],
    }),
    /** `key`: of a read that is sent again, so that it is kept once. */
    keepRead: build.mutation<
      Answer<typeof routes.add>,
      Params<typeof routes.add> & Body<typeof routes.add> & { key?: string }
    >({
      query: ({ site, key, ...body }) => ({ ...send(routes.add, { site }, body), key }),
    }),
    keepReads: build.mutation<
      Answer<typeof routes.addMany>,
      Params<typeof routes.addMany> & Body<typeof routes.addMany>
    >({
      query: ({ site, ...body }) => send(routes.addMany, { site }, body),
      invalidatesTags: ['Reads'],
    }),
  }),
});
export const { useReadsQuery, useKeepReadMutation, useKeepReadsMutation } = readApi;
