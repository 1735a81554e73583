import { type Answer, type Body, type Card, cardApi, cardholderApi, type Params, type Query } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';
import type { AppDispatch, RootState } from '../state/hooks.ts';

/** Lists of cards that are here with their first page, and with more of them; and what is worked out on the cards. */
const [LIST, FAR] = ['list', 'far list'];
export const USE = 'use';

/** What goes stale when these cards change, besides long lists. */
export const tagsOfCards = (ids: readonly string[]) =>
  [LIST, USE, ...ids].map((id) => ({ type: 'Cards' as const, id }));

type CardsAsked = Params<typeof cardApi.list> & Query<typeof cardApi.list>;

export const stockApi = api.injectEndpoints({
  endpoints: (build) => ({
    cards: build.infiniteQuery<Answer<typeof cardApi.list>, CardsAsked, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: ({ next }) => next ?? undefined },
      query: ({ queryArg: { site, ...query }, pageParam }) =>
        ask(cardApi.list, { site }, { ...query, ...(pageParam !== null && { after: pageParam }) }),
      // A list of which only the first page is here is fetched again; of a longer one the cards that changed are.
      providesTags: ({ pages } = { pages: [], pageParams: [] }) => [
        { type: 'Cards', id: pages.length > 1 ? FAR : LIST },
      ],
    }),
    /** One page of a list, for a file that is made of all of them. */
    cardPage: build.query<Answer<typeof cardApi.list>, CardsAsked>({
      query: ({ site, ...query }) => ask(cardApi.list, { site }, query),
      keepUnusedDataFor: 0,
    }),
    card: build.query<Answer<typeof cardApi.one>, Params<typeof cardApi.one>>({
      query: (params) => ask(cardApi.one, params),
      providesTags: (_card, _error, { id }) => [{ type: 'Cards', id }],
    }),
    addCard: build.mutation<
      Answer<typeof cardApi.add>,
      Params<typeof cardApi.add> & { card: Body<typeof cardApi.add> }
    >({
      query: ({ site, card }) => send(cardApi.add, { site }, card),
      invalidatesTags: [{ type: 'Cards', id: LIST }, { type: 'Cards', id: USE }, 'Cardholders', 'Controllers'],
    }),
    changeCard: build.mutation<
      Answer<typeof cardApi.update>,
      Params<typeof cardApi.update> & { change: Body<typeof cardApi.update> }
    >({
      query: ({ site, id, change }) => send(cardApi.update, { site, id }, change),
      invalidatesTags: (_card, _error, { id }) => [...tagsOfCards([id]), 'Cardholders', 'Controllers'],
      async onQueryStarted({ site }, { dispatch, queryFulfilled }) {
        const changed = await queryFulfilled.catch(() => undefined);
        if (changed) dispatch(cardPut(site, changed.data));
      },
    }),
    replaceCard: build.mutation<
      Answer<typeof cardApi.replace>,
      Params<typeof cardApi.replace> & { replacement: Body<typeof cardApi.replace> }
    >({
      query: ({ replacement, ...params }) => send(cardApi.replace, params, replacement),
      invalidatesTags: ['Cards', 'Cardholders', 'Controllers'],
    }),
    takeCardBack: build.mutation<
      Answer<typeof cardApi.takeBack>,
      Params<typeof cardApi.takeBack> & Query<typeof cardApi.takeBack>
    >({
      query: ({ revision, ...params }) => ask(cardApi.takeBack, params, { revision }),
      invalidatesTags: [
        { type: 'Cards', id: LIST },
        { type: 'Cards', id: FAR },
        { type: 'Cards', id: USE },
        'Cardholders',
        'Controllers',
      ],
    }),
    cardHistory: build.query<Answer<typeof cardApi.history>, Params<typeof cardApi.history>>({
      query: (params) => ask(cardApi.history, params),
      providesTags: (_entries, _error, { id }) => [{ type: 'Cards', id }],
    }),
    cardholders: build.query<
      Answer<typeof cardholderApi.list>,
      Params<typeof cardholderApi.list> & Query<typeof cardholderApi.list>
    >({
      query: ({ site, ...query }) => ask(cardholderApi.list, { site }, query),
      providesTags: ['Cardholders'],
    }),
    addCardholder: build.mutation<
      Answer<typeof cardholderApi.add>,
      Params<typeof cardholderApi.add> & Body<typeof cardholderApi.add>
    >({
      query: ({ site, ...body }) => send(cardholderApi.add, { site }, body),
      invalidatesTags: ['Cardholders'],
    }),
  }),
});
export const {
  useCardsInfiniteQuery,
  useCardQuery,
  useLazyCardPageQuery,
  useAddCardMutation,
  useChangeCardMutation,
  useReplaceCardMutation,
  useTakeCardBackMutation,
  useCardHistoryQuery,
  useCardholdersQuery,
  useAddCardholderMutation,
} = stockApi;

/** The lists, scrolled past their first page, in which a card stands. */
export function longListsOf(state: RootState, site: string, id: string): CardsAsked[] {
  return stockApi.util.selectCachedArgsForQuery(state, 'cards').filter((args) => {
    const pages = stockApi.endpoints.cards.select(args)(state).data?.pages ?? [];
    return args.site === site && pages.length > 1 && pages.some(({ cards }) => cards.some((card) => card.id === id));
  });
}

/** Puts a card that changed where it stands in long lists. */
export function cardPut(site: string, card: Card) {
  return (dispatch: AppDispatch, getState: () => RootState): void => {
    for (const args of longListsOf(getState(), site, card.id))
      dispatch(
        stockApi.util.updateQueryData('cards', args, ({ pages }) => {
          for (const page of pages) page.cards = page.cards.map((other) => (other.id === card.id ? card : other));
        }),
      );
  };
}
