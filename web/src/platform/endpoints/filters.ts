import { type Answer, type Body, type Params, filterApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const filterApi = api.injectEndpoints({
  endpoints: (build) => ({
    savedFilters: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Filters'],
    }),
    saveFilter: build.mutation<Answer<typeof routes.save>, Params<typeof routes.save> & Body<typeof routes.save>>({
      query: ({ site, ...body }) => send(routes.save, { site }, body),
      invalidatesTags: ['Filters'],
    }),
    removeFilter: build.mutation<Answer<typeof routes.remove>, Params<typeof routes.remove>>({
      query: (params) => ask(routes.remove, params),
      invalidatesTags: ['Filters'],
    }),
  }),
});
export const { useSavedFiltersQuery, useSaveFilterMutation, useRemoveFilterMutation } = filterApi;
