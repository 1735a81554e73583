import { type Answer, type Body, type Params, sessionApi as routes, siteApi } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const sessionApi = api.injectEndpoints({
  endpoints: (build) => ({
    session: build.query<Answer<typeof routes.whoAmI>, void>({
      query: () => ask(routes.whoAmI, {}),
      providesTags: ['Session'],
    }),
    setupState: build.query<Answer<typeof routes.setupState>, void>({ query: () => ask(routes.setupState, {}) }),
    setUp: build.mutation<Answer<typeof routes.setup>, Body<typeof routes.setup>>({
      query: (body) => send(routes.setup, {}, body),
    }),
    addSite: build.mutation<Answer<typeof siteApi.add>, Body<typeof siteApi.add>>({
      query: (body) => send(siteApi.add, {}, body),
      invalidatesTags: ['Session'],
    }),
    changeSite: build.mutation<
      Answer<typeof siteApi.update>,
      Params<typeof siteApi.update> & Body<typeof siteApi.update>
    >({
      query: ({ site, ...body }) => send(siteApi.update, { site }, body),
      invalidatesTags: ['Session'],
    }),
    signIn: build.mutation<Answer<typeof routes.signIn>, Body<typeof routes.signIn>>({
      query: (body) => send(routes.signIn, {}, body),
    }),
    signOut: build.mutation<Answer<typeof routes.signOut>, void>({ query: () => ask(routes.signOut, {}) }),
    changePassword: build.mutation<Answer<typeof routes.changePassword>, Body<typeof routes.changePassword>>({
      query: (body) => send(routes.changePassword, {}, body),
    }),
  }),
});
export const {
  useSetupStateQuery,
  useSetUpMutation,
  useAddSiteMutation,
  useChangeSiteMutation,
  useSessionQuery,
  useSignInMutation,
  useSignOutMutation,
  useChangePasswordMutation,
} = sessionApi;
