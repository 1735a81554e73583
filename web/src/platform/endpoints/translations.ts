import { type Answer, type Body, type Params, translationApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

const translationApi = api.injectEndpoints({
  endpoints: (build) => ({
    translations: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Formats'],
    }),
    keepTranslation: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
      invalidatesTags: ['Formats'],
    }),
    removeTranslation: build.mutation<Answer<typeof routes.remove>, Params<typeof routes.remove>>({
      query: (params) => ask(routes.remove, params),
      invalidatesTags: ['Formats'],
    }),
  }),
});
export const { useTranslationsQuery, useKeepTranslationMutation, useRemoveTranslationMutation } = translationApi;
