import { type Answer, type Body, sessionApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const sessionApi = api.injectEndpoints({
  endpoints: (build) => ({
    session: build.query<Answer<typeof routes.whoAmI>, void>({
      query: () => ask(routes.whoAmI, {}),
      providesTags: ['Session'],
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
export const { useSessionQuery, useSignInMutation, useSignOutMutation, useChangePasswordMutation } = sessionApi;
