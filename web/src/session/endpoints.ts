import type { Session } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const sessionApi = api.injectEndpoints({
  endpoints: (build) => ({
    session: build.query<Session, void>({ query: () => ({ path: '/session' }), providesTags: ['Session'] }),
    signIn: build.mutation<Session, { login: string; password: string }>({
      query: (body) => ({ path: '/session', method: 'POST', body }),
    }),
    signOut: build.mutation<unknown, void>({ query: () => ({ path: '/session', method: 'DELETE' }) }),
    changePassword: build.mutation<Session, { current: string; next: string }>({
      query: (body) => ({ path: '/session/password', method: 'POST', body }),
    }),
  }),
});
export const { useSessionQuery, useSignInMutation, useSignOutMutation, useChangePasswordMutation } = sessionApi;
