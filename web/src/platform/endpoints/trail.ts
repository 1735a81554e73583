import { type Answer, type Body, trailApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

const NEWEST = { limit: 200 };

export const trailApi = api.injectEndpoints({
  endpoints: (build) => ({
    trail: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }, NEWEST),
      providesTags: ['Trail'],
    }),
    /** The record of what belongs to no site. */
    houseTrail: build.query<Answer<typeof routes.houseList>, void>({
      query: () => ask(routes.houseList, {}, NEWEST),
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
export const { useTrailQuery, useHouseTrailQuery, useVerifyTrailQuery, useSettleTrailMutation } = trailApi;
