import { type Answer, workApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask } from '../api/ask.ts';

export const workApi = api.injectEndpoints({
  endpoints: (build) => ({
    work: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Work'],
    }),
  }),
});
export const { useWorkQuery } = workApi;
