import { type Answer, type Body, type Params, type Query, accessApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

const STALE = ['Access', 'Controllers', 'Cardholders'] as const;

export const accessApi = api.injectEndpoints({
  endpoints: (build) => ({
    access: build.query<Answer<typeof routes.all>, string>({
      query: (site) => ask(routes.all, { site }),
      providesTags: ['Access', 'Controllers'],
    }),
    reviewAccess: build.mutation<
      Answer<typeof routes.review>,
      Params<typeof routes.review> & Body<typeof routes.review>
    >({
      query: ({ site, change }) => send(routes.review, { site }, { change }),
    }),
    saveAccess: build.mutation<Answer<typeof routes.save>, Params<typeof routes.save> & Body<typeof routes.save>>({
      query: ({ site, ...body }) => send(routes.save, { site }, body),
      invalidatesTags: [...STALE],
    }),
    saveMembers: build.mutation<
      Answer<typeof routes.saveMembers>,
      Params<typeof routes.saveMembers> & Body<typeof routes.saveMembers>
    >({
      query: ({ site, ...body }) => send(routes.saveMembers, { site }, body),
      invalidatesTags: [...STALE, 'Cards'],
    }),
    saveAssertion: build.mutation<
      Answer<typeof routes.assert>,
      Params<typeof routes.assert> & { assertion: Body<typeof routes.assert> }
    >({
      query: ({ site, assertion }) => send(routes.assert, { site }, assertion),
      invalidatesTags: ['Access'],
    }),
    withdrawAssertion: build.mutation<Answer<typeof routes.withdraw>, Params<typeof routes.withdraw>>({
      query: (params) => ask(routes.withdraw, params),
      invalidatesTags: ['Access'],
    }),
    members: build.query<Answer<typeof routes.members>, Params<typeof routes.members> & Query<typeof routes.members>>({
      query: ({ site, id, ...query }) => ask(routes.members, { site, id }, query),
      providesTags: ['Access'],
    }),
    accessOfHolder: build.query<
      Answer<typeof routes.ofHolder>,
      Params<typeof routes.ofHolder> & Query<typeof routes.ofHolder>
    >({
      query: ({ site, id, ...query }) => ask(routes.ofHolder, { site, id }, query),
      providesTags: ['Access'],
    }),
    accessOfDoor: build.query<Answer<typeof routes.ofDoor>, Params<typeof routes.ofDoor> & Query<typeof routes.ofDoor>>(
      {
        query: ({ site, id, ...query }) => ask(routes.ofDoor, { site, id }, query),
        providesTags: ['Access'],
      },
    ),
  }),
});
export const {
  useAccessQuery,
  useReviewAccessMutation,
  useSaveAccessMutation,
  useSaveMembersMutation,
  useSaveAssertionMutation,
  useWithdrawAssertionMutation,
  useMembersQuery,
  useAccessOfHolderQuery,
  useAccessOfDoorQuery,
} = accessApi;
