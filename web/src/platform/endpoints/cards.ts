import { type Answer, type Body, cardApi, cardholderApi, type Params, type Query } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const stockApi = api.injectEndpoints({
  endpoints: (build) => ({
    cards: build.query<Answer<typeof cardApi.list>, Params<typeof cardApi.list> & Query<typeof cardApi.list>>({
      query: ({ site, ...query }) => ask(cardApi.list, { site }, query),
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
  useCardsQuery,
  useAddCardMutation,
  useChangeCardMutation,
  useCardholdersQuery,
  useAddCardholderMutation,
} = stockApi;
