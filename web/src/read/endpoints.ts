import type { Read } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const readApi = api.injectEndpoints({
  endpoints: (build) => ({
    reads: build.query<Read[], { site: string; search?: string; limit?: number }>({
      query: ({ site, search, limit = 60 }) => ({
        path: `/sites/${site}/reads?limit=${limit}${search ? `&search=${encodeURIComponent(search)}` : ''}`,
      }),
      providesTags: ['Reads'],
    }),
    keepRead: build.mutation<Read, { site: string; bits: string; notation: string }>({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/reads`, method: 'POST', body }),
    }),
  }),
});
export const { useReadsQuery, useKeepReadMutation } = readApi;
