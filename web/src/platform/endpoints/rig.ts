import { type Answer, type Body, type Params, padApi, rigApi as routes } from '@rawbits/api';
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
    pad: build.query<Answer<typeof padApi.state>, string>({
      query: (site) => ask(padApi.state, { site }),
      providesTags: ['Pad'],
    }),
    layOnPad: build.mutation<Answer<typeof padApi.lay>, Params<typeof padApi.lay> & Body<typeof padApi.lay>>({
      query: ({ site, ...body }) => send(padApi.lay, { site }, body),
      async onQueryStarted({ site }, { dispatch, queryFulfilled }) {
        // The answer is what the pad says now: it is not asked again.
        const { data } = await queryFulfilled.catch(() => ({ data: undefined }));
        if (data) dispatch(rigApi.util.upsertQueryData('pad', site, data));
      },
    }),
    tearFromPad: build.mutation<Answer<typeof padApi.tear>, Params<typeof padApi.tear> & Body<typeof padApi.tear>>({
      query: ({ site, ...body }) => send(padApi.tear, { site }, body),
    }),
    present: build.mutation<Answer<typeof routes.present>, Params<typeof routes.present> & Body<typeof routes.present>>(
      {
        query: ({ site, ...body }) => send(routes.present, { site }, body),
      },
    ),
  }),
});
export const {
  useBringRigInMutation,
  useLayOnPadMutation,
  usePadQuery,
  useRigQuery,
  usePresentMutation,
  useTearFromPadMutation,
} = rigApi;
