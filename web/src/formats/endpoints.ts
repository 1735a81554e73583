import type { FormatUse, ImportReview, LibraryFormat, NewVersion, SiteFormat } from '@rawbits/core/api';
import { api } from '../app/api.ts';

type FileKind = 'json' | 'csv' | 'lines';

export const formatApi = api.injectEndpoints({
  endpoints: (build) => ({
    formats: build.query<SiteFormat[], string>({
      query: (site) => ({ path: `/sites/${site}/formats` }),
      providesTags: ['Formats'],
    }),
    library: build.query<LibraryFormat[], void>({
      query: () => ({ path: '/formats' }),
      providesTags: ['Formats'],
    }),
    versions: build.query<LibraryFormat[], string>({
      query: (format) => ({ path: `/formats/${format}/versions` }),
      providesTags: ['Formats'],
    }),
    formatUse: build.query<FormatUse, { site: string; format: string }>({
      query: ({ site, format }) => ({ path: `/sites/${site}/formats/${format}/use` }),
      providesTags: ['Formats', 'Cards'],
    }),
    addFormat: build.mutation<
      LibraryFormat,
      { id: string; name: string; layout: string; notes?: string; source?: string }
    >({
      query: (body) => ({ path: '/formats', method: 'POST', body }),
      invalidatesTags: ['Formats'],
    }),
    addVersion: build.mutation<LibraryFormat, NewVersion & { id: string }>({
      query: ({ id, ...body }) => ({ path: `/formats/${id}/versions`, method: 'POST', body }),
      invalidatesTags: ['Formats'],
    }),
    setRetired: build.mutation<LibraryFormat, { id: string; retired: boolean; reason: string }>({
      query: ({ id, retired, reason }) => ({
        path: `/formats/${id}/${retired ? 'retire' : 'reinstate'}`,
        method: 'POST',
        body: { reason },
      }),
      invalidatesTags: ['Formats'],
    }),
    importFormats: build.mutation<ImportReview, { kind: FileKind; text: string; save: boolean; reason?: string }>({
      query: (body) => ({ path: '/formats/import', method: 'POST', body }),
      invalidatesTags: ['Formats'],
    }),
    exportFormats: build.query<{ name: string; text: string }, { kind: FileKind; ids?: string }>({
      query: ({ kind, ids }) => ({ path: `/formats/export?kind=${kind}${ids ? `&ids=${ids}` : ''}` }),
      keepUnusedDataFor: 0,
    }),
    adoptFormat: build.mutation<unknown, { site: string; format: string }>({
      query: ({ site, format }) => ({ path: `/sites/${site}/formats/${format}`, method: 'PUT' }),
      invalidatesTags: ['Formats'],
    }),
  }),
});
export const {
  useFormatsQuery,
  useLibraryQuery,
  useVersionsQuery,
  useFormatUseQuery,
  useAddFormatMutation,
  useAddVersionMutation,
  useSetRetiredMutation,
  useImportFormatsMutation,
  useLazyExportFormatsQuery,
  useAdoptFormatMutation,
} = formatApi;
