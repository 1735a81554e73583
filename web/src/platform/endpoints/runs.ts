import {
  type Answer,
  type Body,
  exchangeApi as exchanges,
  type Params,
  type Query,
  type Route,
  runApi as routes,
} from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type With<T extends Route> = { params: Params<T>; body: Body<T> };
const invalidatesTags = ['Runs' as const, 'Pad' as const];

const runsApi = api.injectEndpoints({
  endpoints: (build) => ({
    runs: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Runs'],
    }),
    run: build.query<Answer<typeof routes.one>, Params<typeof routes.one>>({
      query: (params) => ask(routes.one, params),
      providesTags: ['Runs'],
    }),
    startRun: build.mutation<Answer<typeof routes.start>, With<typeof routes.start>>({
      query: ({ params, body }) => send(routes.start, params, body),
      invalidatesTags,
    }),
    stopRun: build.mutation<Answer<typeof routes.stop>, Params<typeof routes.stop>>({
      query: (params) => ask(routes.stop, params),
      invalidatesTags,
    }),
    goOnWithRun: build.mutation<Answer<typeof routes.goOn>, With<typeof routes.goOn>>({
      query: ({ params, body }) => send(routes.goOn, params, body),
      invalidatesTags,
    }),
    endRun: build.mutation<Answer<typeof routes.end>, Params<typeof routes.end>>({
      query: (params) => ask(routes.end, params),
      invalidatesTags,
    }),
    runCards: build.query<Answer<typeof routes.cards>, Params<typeof routes.cards> & Query<typeof routes.cards>>({
      query: ({ site, id, ...query }) => ask(routes.cards, { site, id }, query),
      providesTags: ['Runs'],
    }),
    runSteps: build.query<Answer<typeof routes.steps>, Params<typeof routes.steps>>({
      query: (params) => ask(routes.steps, params),
      providesTags: ['Runs'],
    }),
    keptExchange: build.query<Answer<typeof exchanges.one>, Params<typeof exchanges.one>>({
      query: (params) => ask(exchanges.one, params),
      providesTags: ['Runs'],
    }),
    playExchange: build.mutation<Answer<typeof exchanges.play>, With<typeof exchanges.play>>({
      query: ({ params, body }) => send(exchanges.play, params, body),
    }),
    giveUpCard: build.mutation<Answer<typeof routes.giveUp>, Params<typeof routes.giveUp>>({
      query: (params) => ask(routes.giveUp, params),
      invalidatesTags,
    }),
    pads: build.query<Answer<typeof routes.pads>, string>({
      query: (site) => ask(routes.pads, { site }),
      providesTags: ['Runs', 'Hosts'],
    }),
    lookAtPad: build.mutation<Answer<typeof routes.look>, With<typeof routes.look>>({
      query: ({ params, body }) => send(routes.look, params, body),
    }),
  }),
});
export const {
  useRunsQuery,
  useRunQuery,
  useStartRunMutation,
  useStopRunMutation,
  useGoOnWithRunMutation,
  useEndRunMutation,
  useRunCardsQuery,
  useRunStepsQuery,
  useLazyKeptExchangeQuery,
  usePlayExchangeMutation,
  useGiveUpCardMutation,
  usePadsQuery,
  useLookAtPadMutation,
} = runsApi;
