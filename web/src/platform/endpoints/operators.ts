import { type Answer, type Body, type Params, operatorApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type OfOperator = Params<typeof routes.setRoles>;

export const operatorApi = api.injectEndpoints({
  endpoints: (build) => ({
    operators: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Operators'],
    }),
    addOperator: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
      invalidatesTags: ['Operators'],
    }),
    setRoles: build.mutation<Answer<typeof routes.setRoles>, OfOperator & Body<typeof routes.setRoles>>({
      query: ({ site, id, ...body }) => send(routes.setRoles, { site, id }, body),
      invalidatesTags: ['Operators'],
    }),
    resetPassword: build.mutation<Answer<typeof routes.reset>, OfOperator & Body<typeof routes.reset>>({
      query: ({ site, id, ...body }) => send(routes.reset, { site, id }, body),
      invalidatesTags: ['Operators'],
    }),
    closeOperator: build.mutation<Answer<typeof routes.close>, OfOperator & { open: boolean }>({
      query: ({ open, ...params }) => (open ? ask(routes.reopen, params) : ask(routes.close, params)),
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
