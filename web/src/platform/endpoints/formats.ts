import { type Answer, type Body, type Params, type Query, formatApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';
import { USE } from './cards.ts';

export const formatApi = api.injectEndpoints({
  endpoints: (build) => ({
    formats: build.query<Answer<typeof routes.ofSite>, string>({
      query: (site) => ask(routes.ofSite, { site }),
      providesTags: ['Formats'],
    }),
    library: build.query<Answer<typeof routes.library>, void>({
      query: () => ask(routes.library, {}),
      providesTags: ['Formats'],
    }),
    versions: build.query<Answer<typeof routes.versions>, string>({
      query: (format) => ask(routes.versions, { format }),
      providesTags: ['Formats'],
    }),
    formatUse: build.query<Answer<typeof routes.use>, Params<typeof routes.use>>({
      query: (params) => ask(routes.use, params),
      providesTags: ['Formats', { type: 'Cards', id: USE }],
    }),
    addFormat: build.mutation<Answer<typeof routes.add>, Body<typeof routes.add>>({
      query: (body) => send(routes.add, {}, body),
      invalidatesTags: ['Formats'],
    }),
    addVersion: build.mutation<Answer<typeof routes.addVersion>, { id: string } & Body<typeof routes.addVersion>>({
      query: ({ id, ...body }) => send(routes.addVersion, { format: id }, body),
      invalidatesTags: ['Formats'],
    }),
    setRetired: build.mutation<
      Answer<typeof routes.retire>,
      { id: string; retired: boolean } & Body<typeof routes.retire>
    >({
      query: ({ id, retired, reason }) =>
        retired ? send(routes.retire, { format: id }, { reason }) : send(routes.reinstate, { format: id }, { reason }),
      invalidatesTags: ['Formats'],
    }),
    importFormats: build.mutation<Answer<typeof routes.importFormats>, Body<typeof routes.importFormats>>({
      query: (body) => send(routes.importFormats, {}, body),
      invalidatesTags: ['Formats'],
    }),
    exportFormats: build.query<Answer<typeof routes.exportFormats>, Query<typeof routes.exportFormats>>({
      query: (query) => ask(routes.exportFormats, {}, query),
      keepUnusedDataFor: 0,
    }),
    adoptFormat: build.mutation<Answer<typeof routes.adopt>, Params<typeof routes.adopt>>({
      query: (params) => ask(routes.adopt, params),
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
