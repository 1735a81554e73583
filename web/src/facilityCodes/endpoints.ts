import type { Collisions, FacilityCode, NewFacilityCode } from '@rawbits/core/api';
import { api } from '../app/api.ts';

type Described = Omit<NewFacilityCode, 'formatId' | 'code'> & { revision: number };

const facilityCodeApi = api.injectEndpoints({
  endpoints: (build) => ({
    facilityCodes: build.query<FacilityCode[], string>({
      query: (site) => ({ path: `/sites/${site}/facility-codes` }),
      providesTags: ['Formats'],
    }),
    collisions: build.query<Collisions, string>({
      query: (site) => ({ path: `/sites/${site}/collisions` }),
      providesTags: ['Formats', 'Cards', 'Controllers'],
    }),
    addFacilityCode: build.mutation<FacilityCode, { site: string; code: NewFacilityCode }>({
      query: ({ site, code }) => ({ path: `/sites/${site}/facility-codes`, method: 'POST', body: code }),
      invalidatesTags: ['Formats'],
    }),
    describeFacilityCode: build.mutation<FacilityCode, { site: string; id: string; body: Described }>({
      query: ({ site, id, body }) => ({ path: `/sites/${site}/facility-codes/${id}`, method: 'PATCH', body }),
      invalidatesTags: ['Formats'],
    }),
    removeFacilityCode: build.mutation<unknown, { site: string; id: string }>({
      query: ({ site, id }) => ({ path: `/sites/${site}/facility-codes/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Formats'],
    }),
  }),
});
export const {
  useFacilityCodesQuery,
  useCollisionsQuery,
  useAddFacilityCodeMutation,
  useDescribeFacilityCodeMutation,
  useRemoveFacilityCodeMutation,
} = facilityCodeApi;
