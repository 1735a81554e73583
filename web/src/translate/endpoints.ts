import type { NamedTranslation } from '@rawbits/core/api';
import type { Translation } from '@rawbits/core/translate';
import { api } from '../app/api.ts';

const translationApi = api.injectEndpoints({
  endpoints: (build) => ({
    translations: build.query<NamedTranslation[], string>({
      query: (site) => ({ path: `/sites/${site}/translations` }),
      providesTags: ['Formats'],
    }),
    keepTranslation: build.mutation<
      NamedTranslation,
      { site: string; name: string; notes: string; translation: Translation }
    >({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/translations`, method: 'POST', body }),
      invalidatesTags: ['Formats'],
    }),
    removeTranslation: build.mutation<unknown, { site: string; id: string }>({
      query: ({ site, id }) => ({ path: `/sites/${site}/translations/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Formats'],
    }),
  }),
});
export const { useTranslationsQuery, useKeepTranslationMutation, useRemoveTranslationMutation } = translationApi;
