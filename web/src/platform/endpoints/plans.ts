import { type Answer, type Body, type Params, type Route, planApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type With<T extends Route> = { params: Params<T>; body: Body<T> };

const plansApi = api.injectEndpoints({
  endpoints: (build) => ({
    plans: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Plans', 'Keys'],
    }),
    plan: build.query<Answer<typeof routes.one>, Params<typeof routes.one>>({
      query: (params) => ask(routes.one, params),
      providesTags: ['Plans', 'Keys'],
    }),
    addPlan: build.mutation<Answer<typeof routes.add>, With<typeof routes.add>>({
      query: ({ params, body }) => send(routes.add, params, body),
      invalidatesTags: ['Plans'],
    }),
    addPlanVersion: build.mutation<Answer<typeof routes.addVersion>, With<typeof routes.addVersion>>({
      query: ({ params, body }) => send(routes.addVersion, params, body),
      invalidatesTags: ['Plans'],
    }),
    removePlan: build.mutation<Answer<typeof routes.remove>, Params<typeof routes.remove>>({
      query: (params) => ask(routes.remove, params),
      invalidatesTags: ['Plans'],
    }),
    planDryRun: build.mutation<Answer<typeof routes.dryRun>, With<typeof routes.dryRun>>({
      query: ({ params, body }) => send(routes.dryRun, params, body),
    }),
  }),
});
export const {
  usePlansQuery,
  usePlanQuery,
  useAddPlanMutation,
  useAddPlanVersionMutation,
  useRemovePlanMutation,
  usePlanDryRunMutation,
} = plansApi;
