import {
  type Answer,
  type Body,
  badgeApi as badges,
  type Params,
  type Query,
  cardholderApi as routes,
  peopleSheetApi as sheets,
} from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type One = Params<typeof routes.one>;
type Asked = Params<typeof routes.list> & Query<typeof routes.list>;

export const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.infiniteQuery<Answer<typeof routes.list>, Asked, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: ({ next }) => next ?? undefined },
      query: ({ queryArg: { site, ...query }, pageParam }) =>
        ask(routes.list, { site }, { ...query, limit: 100, ...(pageParam !== null && { after: pageParam }) }),
      providesTags: ['Cardholders'],
    }),
    person: build.query<Answer<typeof routes.one>, One>({
      query: (params) => ask(routes.one, params),
      providesTags: ['Cardholders'],
    }),
    changePerson: build.mutation<Answer<typeof routes.update>, One & { change: Body<typeof routes.update> }>({
      query: ({ change, ...params }) => send(routes.update, params, change),
      invalidatesTags: ['Cardholders', 'Cards'],
    }),
    setPin: build.mutation<Answer<typeof routes.setPin>, One & { pin: string | null }>({
      query: ({ pin, ...params }) => send(routes.setPin, params, { pin }),
      invalidatesTags: ['Cardholders'],
    }),
    photograph: build.query<Answer<typeof routes.photograph>, One>({
      query: (params) => ask(routes.photograph, params),
      providesTags: ['Cardholders'],
    }),
    setPhotograph: build.mutation<Answer<typeof routes.setPhotograph>, One & Body<typeof routes.setPhotograph>>({
      query: ({ photograph, ...params }) => send(routes.setPhotograph, params, { photograph }),
      invalidatesTags: ['Cardholders'],
    }),
    exportPerson: build.query<Answer<typeof routes.export>, One>({
      query: (params) => ask(routes.export, params),
      keepUnusedDataFor: 0,
    }),
    erasePerson: build.mutation<Answer<typeof routes.erase>, One & Query<typeof routes.erase>>({
      query: ({ revision, ...params }) => ask(routes.erase, params, { revision }),
      invalidatesTags: ['Cardholders', 'Cards', 'Events', 'Controllers'],
    }),
    peopleOut: build.query<Answer<typeof sheets.out>, Params<typeof sheets.out> & Query<typeof sheets.out>>({
      query: ({ site, ...query }) => ask(sheets.out, { site }, query),
      keepUnusedDataFor: 0,
    }),
    reviewPeople: build.mutation<
      Answer<typeof sheets.review>,
      Params<typeof sheets.review> & { sheet: Body<typeof sheets.review> }
    >({
      query: ({ site, sheet }) => send(sheets.review, { site }, sheet),
    }),
    enterPeople: build.mutation<
      Answer<typeof sheets.enter>,
      Params<typeof sheets.enter> & { sheet: Body<typeof sheets.enter> }
    >({
      query: ({ site, sheet }) => send(sheets.enter, { site }, sheet),
      invalidatesTags: ['Cards', 'Cardholders', 'Controllers', 'Access'],
    }),
    badges: build.query<Answer<typeof badges.of>, Params<typeof badges.of> & Body<typeof badges.of>>({
      query: ({ site, holders }) => send(badges.of, { site }, { holders }),
      providesTags: ['Cardholders', 'Cards'],
    }),
    marks: build.query<Answer<typeof badges.marks>, string>({
      query: (site) => ask(badges.marks, { site }),
      providesTags: ['Cardholders'],
    }),
    setMark: build.mutation<
      Answer<typeof badges.setMark>,
      Params<typeof badges.setMark> & { mark: Body<typeof badges.setMark> }
    >({
      query: ({ site, mark }) => send(badges.setMark, { site }, mark),
      invalidatesTags: ['Cardholders'],
    }),
    cardholderRules: build.query<Answer<typeof routes.rules>, string>({
      query: (site) => ask(routes.rules, { site }),
      providesTags: ['Cardholders'],
    }),
    setCardholderRules: build.mutation<
      Answer<typeof routes.setRules>,
      Params<typeof routes.setRules> & { rules: Body<typeof routes.setRules> }
    >({
      query: ({ site, rules }) => send(routes.setRules, { site }, rules),
      invalidatesTags: ['Cardholders'],
    }),
  }),
});
export const {
  usePeopleInfiniteQuery,
  usePersonQuery,
  useChangePersonMutation,
  useSetPinMutation,
  usePhotographQuery,
  useSetPhotographMutation,
  useLazyExportPersonQuery,
  useErasePersonMutation,
  useBadgesQuery,
  useMarksQuery,
  useSetMarkMutation,
  useLazyPeopleOutQuery,
  useReviewPeopleMutation,
  useEnterPeopleMutation,
  useCardholderRulesQuery,
  useSetCardholderRulesMutation,
} = peopleApi;
