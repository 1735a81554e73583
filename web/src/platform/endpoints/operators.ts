import { type Answer, approvalApi, type Body, type Params, operatorApi as routes, tokenApi } from '@rawbits/api';
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
    approvals: build.query<Answer<typeof approvalApi.list>, string>({
      query: (site) => ask(approvalApi.list, { site }),
      providesTags: ['Operators'],
    }),
    settleApproval: build.mutation<
      Answer<typeof approvalApi.agree>,
      Params<typeof approvalApi.agree> & { agree: boolean }
    >({
      query: ({ agree, ...params }) => (agree ? ask(approvalApi.agree, params) : ask(approvalApi.refuse, params)),
      invalidatesTags: ['Operators'],
    }),
    tokens: build.query<Answer<typeof tokenApi.list>, string>({
      query: (site) => ask(tokenApi.list, { site }),
      providesTags: ['Operators'],
    }),
    makeToken: build.mutation<Answer<typeof tokenApi.make>, Params<typeof tokenApi.make> & Body<typeof tokenApi.make>>({
      query: ({ site, ...body }) => send(tokenApi.make, { site }, body),
      invalidatesTags: ['Operators'],
    }),
    revokeToken: build.mutation<Answer<typeof tokenApi.revoke>, Params<typeof tokenApi.revoke>>({
      query: (params) => ask(tokenApi.revoke, params),
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
  useApprovalsQuery,
  useSettleApprovalMutation,
  useTokensQuery,
  useMakeTokenMutation,
  useRevokeTokenMutation,
} = operatorApi;
