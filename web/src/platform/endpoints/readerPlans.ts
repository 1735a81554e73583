import { type Answer, type Body, type Params, type Query, readerPlanApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

const readerPlansApi = api.injectEndpoints({
  endpoints: (build) => ({
    readerPlans: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Plans', 'Keys'],
    }),
    setReaderPlan: build.mutation<
      Answer<typeof routes.set>,
      { params: Params<typeof routes.set>; body: Body<typeof routes.set> }
    >({
      query: ({ params, body }) => send(routes.set, params, body),
      invalidatesTags: ['Plans', 'Keys'],
    }),
    endReaderPlan: build.mutation<Answer<typeof routes.end>, Params<typeof routes.end> & Query<typeof routes.end>>({
      query: ({ site, id, ...query }) => ask(routes.end, { site, id }, query),
      invalidatesTags: ['Plans', 'Keys'],
    }),
    wouldOpen: build.query<
      Answer<typeof routes.wouldOpen>,
      Params<typeof routes.wouldOpen> & Query<typeof routes.wouldOpen>
    >({
      query: ({ site, id, ...query }) => ask(routes.wouldOpen, { site, id }, query),
      providesTags: ['Plans', 'Cards', 'Controllers'],
      keepUnusedDataFor: 5,
    }),
  }),
});
export const { useReaderPlansQuery, useSetReaderPlanMutation, useEndReaderPlanMutation, useWouldOpenQuery } =
  readerPlansApi;
