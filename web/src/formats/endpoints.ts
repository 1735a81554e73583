import type { FacilityCode, LibraryFormat, SiteFormat } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const formatApi = api.injectEndpoints({
  endpoints: (build) => ({
    formats: build.query<SiteFormat[], string>({
      query: (site) => ({ path: `/sites/${site}/formats` }),
      providesTags: ['Formats'],
    }),
    addFormat: build.mutation<
      LibraryFormat,
      { id: string; name: string; layout: string; notes?: string; source?: string }
    >({
      query: (body) => ({ path: '/formats', method: 'POST', body }),
      invalidatesTags: ['Formats'],
    }),
    adoptFormat: build.mutation<unknown, { site: string; format: string }>({
      query: ({ site, format }) => ({ path: `/sites/${site}/formats/${format}`, method: 'PUT' }),
      invalidatesTags: ['Formats'],
    }),
    dropFormat: build.mutation<unknown, { site: string; format: string }>({
      query: ({ site, format }) => ({ path: `/sites/${site}/formats/${format}`, method: 'DELETE' }),
      invalidatesTags: ['Formats'],
    }),
    facilityCodes: build.query<FacilityCode[], string>({
      query: (site) => ({ path: `/sites/${site}/facility-codes` }),
      providesTags: ['Formats'],
    }),
  }),
});
export const {
  useFormatsQuery,
  useAddFormatMutation,
  useAdoptFormatMutation,
  useDropFormatMutation,
  useFacilityCodesQuery,
} = formatApi;
