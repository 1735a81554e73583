import {
  type Answer,
  type Body,
  numberApi as numbers,
  type Params,
  type Query,
  boxApi as routes,
  sheetApi as sheets,
} from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';
import { USE } from './cards.ts';

/** What is counted over the cards goes stale with any of them. */
const COUNTED = [{ type: 'Cards' as const, id: USE }];
type OfBox = Params<typeof routes.one>;

const boxApi = api.injectEndpoints({
  endpoints: (build) => ({
    boxes: build.infiniteQuery<Answer<typeof routes.list>, string, string | null>({
      infiniteQueryOptions: { initialPageParam: null, getNextPageParam: ({ next }) => next ?? undefined },
      query: ({ queryArg: site, pageParam }) =>
        ask(routes.list, { site }, pageParam === null ? {} : { after: pageParam }),
      providesTags: COUNTED,
    }),
    box: build.query<Answer<typeof routes.one>, OfBox>({
      query: (params) => ask(routes.one, params),
      providesTags: COUNTED,
    }),
    reviewBox: build.mutation<
      Answer<typeof routes.review>,
      Params<typeof routes.review> & { box: Body<typeof routes.review> }
    >({
      query: ({ site, box }) => send(routes.review, { site }, box),
    }),
    enterBox: build.mutation<
      Answer<typeof routes.enter>,
      Params<typeof routes.enter> & { box: Body<typeof routes.enter> }
    >({
      query: ({ site, box }) => send(routes.enter, { site }, box),
    }),
    changeBox: build.mutation<Answer<typeof routes.update>, OfBox & Body<typeof routes.update>>({
      query: ({ site, id, ...body }) => send(routes.update, { site, id }, body),
      invalidatesTags: COUNTED,
    }),
    takeBoxBack: build.mutation<Answer<typeof routes.takeBack>, OfBox & Query<typeof routes.takeBack>>({
      query: ({ revision, ...params }) => ask(routes.takeBack, params, { revision }),
    }),
    boxWork: build.query<Answer<typeof routes.work>, Params<typeof routes.work>>({
      query: (params) => ask(routes.work, params),
      keepUnusedDataFor: 0,
    }),
    cancelBoxWork: build.mutation<Answer<typeof routes.cancel>, Params<typeof routes.cancel>>({
      query: (params) => ask(routes.cancel, params),
    }),
    reviewSheet: build.mutation<
      Answer<typeof sheets.review>,
      Params<typeof sheets.review> & { sheet: Body<typeof sheets.review> }
    >({
      query: ({ site, sheet }) => send(sheets.review, { site }, sheet),
    }),
    enterSheet: build.mutation<
      Answer<typeof sheets.enter>,
      Params<typeof sheets.enter> & { sheet: Body<typeof sheets.enter> }
    >({
      query: ({ site, sheet }) => send(sheets.enter, { site }, sheet),
      invalidatesTags: ['Cards', 'Cardholders', 'Controllers'],
    }),
    toOrder: build.query<
      Answer<typeof numbers.toOrder>,
      Params<typeof numbers.toOrder> & Query<typeof numbers.toOrder>
    >({
      query: ({ site, ...query }) => ask(numbers.toOrder, { site }, query),
      providesTags: [...COUNTED, 'Formats'],
    }),
    numberLines: build.query<Answer<typeof numbers.lines>, string>({
      query: (site) => ask(numbers.lines, { site }),
      providesTags: COUNTED,
    }),
    numberMap: build.query<Answer<typeof numbers.map>, Params<typeof numbers.map> & Query<typeof numbers.map>>({
      query: ({ site, ...query }) => ask(numbers.map, { site }, query),
      providesTags: [...COUNTED, 'Formats'],
    }),
    freeRun: build.query<Answer<typeof numbers.free>, Params<typeof numbers.free> & Query<typeof numbers.free>>({
      query: ({ site, ...query }) => ask(numbers.free, { site }, query),
      providesTags: [...COUNTED, 'Formats'],
    }),
  }),
});
export const {
  useBoxesInfiniteQuery,
  useBoxQuery,
  useReviewBoxMutation,
  useEnterBoxMutation,
  useChangeBoxMutation,
  useTakeBoxBackMutation,
  useBoxWorkQuery,
  useCancelBoxWorkMutation,
  useReviewSheetMutation,
  useEnterSheetMutation,
  useToOrderQuery,
  useNumberLinesQuery,
  useNumberMapQuery,
  useFreeRunQuery,
} = boxApi;
