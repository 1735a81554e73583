import { type Answer, type Body, type Params, rigApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const rigApi = api.injectEndpoints({
  endpoints: (build) => ({
    rig: build.query<Answer<typeof routes.state>, string>({
      query: (site) => ask(routes.state, { site }),
      providesTags: ['Rig'],
    }),
    bringRigIn: build.mutation<Answer<typeof routes.bringIn>, Params<typeof routes.bringIn>>({
      query: (params) => ask(routes.bringIn, params),
      invalidatesTags: ['Rig', 'Session', 'Controllers', 'Hosts'],
    }),
    present: build.mutation<Answer<typeof routes.present>, Params<typeof routes.present> & Body<typeof routes.present>>(
      {
        query: ({ site, ...body }) => send(routes.present, { site }, body),
      },
    ),
  }),
});
export const { useBringRigInMutation, useRigQuery, usePresentMutation } = rigApi;
