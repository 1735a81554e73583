import type { Operator, Role } from '@rawbits/core/api';
import { api } from '../app/api.ts';

type At = { site: string; id: string };

export const operatorApi = api.injectEndpoints({
  endpoints: (build) => ({
    operators: build.query<Operator[], string>({
      query: (site) => ({ path: `/sites/${site}/operators` }),
      providesTags: ['Operators'],
    }),
    addOperator: build.mutation<Operator, { site: string; login: string; name: string; role: Role; password: string }>({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/operators`, method: 'POST', body }),
      invalidatesTags: ['Operators'],
    }),
    setRoles: build.mutation<Operator | null, At & { roles: Record<string, Role | null> }>({
      query: ({ site, id, roles }) => ({ path: `/sites/${site}/operators/${id}`, method: 'PATCH', body: { roles } }),
      invalidatesTags: ['Operators'],
    }),
    resetPassword: build.mutation<Operator, At & { password: string }>({
      query: ({ site, id, password }) => ({
        path: `/sites/${site}/operators/${id}/password`,
        method: 'POST',
        body: { password },
      }),
      invalidatesTags: ['Operators'],
    }),
    closeOperator: build.mutation<Operator, At & { open: boolean }>({
      query: ({ site, id, open }) => ({
        path: `/sites/${site}/operators/${id}/${open ? 'reopen' : 'close'}`,
        method: 'POST',
      }),
      invalidatesTags: ['Operators'],
    }),
  }),
});
export const {
  useOperatorsQuery,
  useAddOperatorMutation,
  useSetRolesMutation,
  useResetPasswordMutation,
  useCloseOperatorMutation,
} = operatorApi;
