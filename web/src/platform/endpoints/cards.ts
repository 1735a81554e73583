import { type Answer, type Body, cardApi, cardholderApi, type Params, type Query } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type CardsAsked = Params<typeof cardApi.list> & Query<typeof cardApi.list>;

export const stockApi = api.injectEndpoints({
  endpoints: (build) => ({
    cards: build.infiniteQuery<Answer<typeof cardApi.list>, CardsAsked, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: ({ next }) => next ?? undefined },
      query: ({ queryArg: { site, ...query }, pageParam }) =>
        ask(cardApi.list, { site }, { ...query, ...(pageParam !== null && { after: pageParam }) }),
      providesTags: ['Cards'],
    }),
    card: build.query<Answer<typeof cardApi.one>, Params<typeof cardApi.one>>({
      query: (params) => ask(cardApi.one, params),
      providesTags: ['Cards'],
    }),
    addCard: build.mutation<
      Answer<typeof cardApi.add>,
      Params<typeof cardApi.add> & { card: Body<typeof cardApi.add> }
    >({
      query: ({ site, card }) => send(cardApi.add, { site }, card),
      invalidatesTags: ['Cards', 'Controllers'],
    }),
    changeCard: build.mutation<
      Answer<typeof cardApi.update>,
      Params<typeof cardApi.update> & { change: Body<typeof cardApi.update> }
    >({
      query: ({ site, id, change }) => send(cardApi.update, { site, id }, change),
      invalidatesTags: ['Cards', 'Controllers'],
    }),
    cardholders: build.query<Answer<typeof cardholderApi.list>, string>({
      query: (site) => ask(cardholderApi.list, { site }),
      providesTags: ['Cards'],
    }),
    addCardholder: build.mutation<
      Answer<typeof cardholderApi.add>,
      Params<typeof cardholderApi.add> & Body<typeof cardholderApi.add>
    >({
      query: ({ site, ...body }) => send(cardholderApi.add, { site }, body),
      invalidatesTags: ['Cards'],
    }),
  }),
});
export const {
  useCardsInfiniteQuery,
  useCardQuery,
  useAddCardMutation,
  useChangeCardMutation,
  useCardholdersQuery,
  useAddCardholderMutation,
} = stockApi;
