import { type Answer, type Body, type Params, armingApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const armingApi = api.injectEndpoints({
  endpoints: (build) => ({
    armed: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Arming'],
      // How long is left is as it was said: whoever comes back asks anew.
      keepUnusedDataFor: 0,
    }),
    arm: build.mutation<Answer<typeof routes.arm>, Params<typeof routes.arm> & Body<typeof routes.arm>>({
      query: ({ site, id, ...body }) => send(routes.arm, { site, id }, body),
      invalidatesTags: ['Arming'],
    }),
    disarm: build.mutation<Answer<typeof routes.disarm>, Params<typeof routes.disarm>>({
      query: (params) => ask(routes.disarm, params),
      invalidatesTags: ['Arming'],
    }),
  }),
});
export const { useArmedQuery, useArmMutation, useDisarmMutation } = armingApi;
