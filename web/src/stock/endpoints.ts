import type { Card, Cardholder, NewCard } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export type CardChange = Partial<Pick<Card, 'printed' | 'state' | 'validFrom' | 'validTo' | 'notes'>> & {
  revision: number;
  holderId?: string | null;
};

export const stockApi = api.injectEndpoints({
  endpoints: (build) => ({
    cards: build.query<Card[], { site: string; search?: string; state?: string }>({
      query: ({ site, search, state }) => {
        const query = new URLSearchParams({ ...(search && { search }), ...(state && { state }) });
        return { path: `/sites/${site}/cards?${query}` };
      },
      providesTags: ['Cards'],
    }),
    addCard: build.mutation<Card, { site: string; card: NewCard }>({
      query: ({ site, card }) => ({ path: `/sites/${site}/cards`, method: 'POST', body: card }),
      invalidatesTags: ['Cards', 'Controllers'],
    }),
    changeCard: build.mutation<Card, { site: string; id: string; change: CardChange }>({
      query: ({ site, id, change }) => ({ path: `/sites/${site}/cards/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['Cards', 'Controllers'],
    }),
    cardholders: build.query<Cardholder[], string>({
      query: (site) => ({ path: `/sites/${site}/cardholders` }),
      providesTags: ['Cards'],
    }),
    addCardholder: build.mutation<Cardholder, { site: string; name: string; department: string }>({
      query: ({ site, ...body }) => ({ path: `/sites/${site}/cardholders`, method: 'POST', body }),
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
