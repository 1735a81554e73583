import type { TrailEntry, TrailVerification } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const trailApi = api.injectEndpoints({
  endpoints: (build) => ({
    trail: build.query<TrailEntry[], string>({
      query: (site) => ({ path: `/sites/${site}/trail?limit=200` }),
      providesTags: ['Trail'],
    }),
    verifyTrail: build.query<TrailVerification, string>({
      query: (site) => ({ path: `/sites/${site}/trail/verification` }),
      keepUnusedDataFor: 0,
    }),
  }),
});
export const { useTrailQuery, useLazyVerifyTrailQuery } = trailApi;
