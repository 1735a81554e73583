import { type Answer, type Body, type Params, wholeCardApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';
import { USE } from './cards.ts';

type OfFormat = Params<typeof routes.review>;

export const wholeCardApi = api.injectEndpoints({
  endpoints: (build) => ({
    wholeCards: build.query<Answer<typeof routes.review>, OfFormat>({
      query: (params) => ask(routes.review, params),
      providesTags: ['Formats', { type: 'Cards', id: USE }],
    }),
    giveNumbers: build.mutation<Answer<typeof routes.give>, OfFormat & Body<typeof routes.give>>({
      query: ({ cards, ...params }) => send(routes.give, params, { cards }),
      invalidatesTags: ['Cards', 'Controllers'],
    }),
  }),
});
export const { useWholeCardsQuery, useGiveNumbersMutation } = wholeCardApi;
