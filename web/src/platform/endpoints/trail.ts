import { type Answer, type Body, type Params, type Query, trailApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

const NEWEST = { limit: 200 };

type HappenedAsked = Params<typeof routes.happened> & Query<typeof routes.happened>;

export const trailApi = api.injectEndpoints({
  endpoints: (build) => ({
    happened: build.infiniteQuery<Answer<typeof routes.happened>, HappenedAsked, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: ({ next }) => next ?? undefined },
      query: ({ queryArg: { site, ...query }, pageParam }) =>
        ask(routes.happened, { site }, { ...query, ...(pageParam !== null && { after: pageParam }) }),
      // What was scrolled back to stays as it is: whoever looks at it is told that there is more since.
      providesTags: ({ pages } = { pages: [], pageParams: [] }) => (pages.length > 1 ? [] : ['Trail', 'Events']),
    }),
    /** The newest of what happened, to see whether there is anything since. */
    newest: build.query<Answer<typeof routes.happened>, HappenedAsked>({
      query: ({ site, ...query }) => ask(routes.happened, { site }, { ...query, limit: 1 }),
      providesTags: ['Trail', 'Events'],
    }),
    /** The record of what belongs to no site. */
    houseTrail: build.query<Answer<typeof routes.houseList>, void>({
      query: () => ask(routes.houseList, {}, NEWEST),
      providesTags: ['Trail'],
    }),
    /** Whether new entries of a site's record are sealed. */
    sealing: build.query<Answer<typeof routes.sealing>, string>({
      query: (site) => ask(routes.sealing, { site }),
      providesTags: ['Trail'],
    }),
    /** Of a site's record, or of that of the house where none is named. */
    verifyTrail: build.query<Answer<typeof routes.verification>, string | null>({
      query: (site) => (site === null ? ask(routes.houseVerification, {}) : ask(routes.verification, { site })),
      keepUnusedDataFor: 0,
    }),
    settleTrail: build.mutation<
      Answer<typeof routes.settlement>,
      { site: string | null } & Body<typeof routes.settlement>
    >({
      query: ({ site, ...body }) =>
        site === null ? send(routes.houseSettlement, {}, body) : send(routes.settlement, { site }, body),
      invalidatesTags: ['Trail'],
    }),
  }),
});
export const {
  useHappenedInfiniteQuery,
  useHouseTrailQuery,
  useNewestQuery,
  useSealingQuery,
  useVerifyTrailQuery,
  useSettleTrailMutation,
} = trailApi;
