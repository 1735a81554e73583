import { type Answer, type Body, type Params, caseApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type OfCase = Params<typeof routes.one>;
export type CaseChange = Body<typeof routes.update>;

const caseApi = api.injectEndpoints({
  endpoints: (build) => ({
    cases: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Cases'],
    }),
    case: build.query<Answer<typeof routes.one>, OfCase>({
      query: (params) => ask(routes.one, params),
      keepUnusedDataFor: 0,
    }),
    startCase: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
      invalidatesTags: ['Cases'],
    }),
    changeCase: build.mutation<Answer<typeof routes.update>, OfCase & { change: CaseChange }>({
      query: ({ site, id, change }) => send(routes.update, { site, id }, change),
      invalidatesTags: ['Cases'],
    }),
    removeCase: build.mutation<Answer<typeof routes.remove>, OfCase>({
      query: (params) => ask(routes.remove, params),
      invalidatesTags: ['Cases'],
    }),
    makeFormat: build.mutation<Answer<typeof routes.result>, OfCase & { result: Body<typeof routes.result> }>({
      query: ({ site, id, result }) => send(routes.result, { site, id }, result),
      invalidatesTags: ['Cases', 'Formats', 'Trail'],
    }),
  }),
});
export const {
  useCasesQuery,
  useCaseQuery,
  useStartCaseMutation,
  useChangeCaseMutation,
  useRemoveCaseMutation,
  useMakeFormatMutation,
} = caseApi;
