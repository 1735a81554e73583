import { type Answer, type Body, eventApi, type Params, type Query, doorApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

type OfController = Params<typeof routes.load>;

export const doorApi = api.injectEndpoints({
  endpoints: (build) => ({
    controllers: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Controllers'],
    }),
    controller: build.query<Answer<typeof routes.one>, Params<typeof routes.one>>({
      query: (params) => ask(routes.one, params),
      keepUnusedDataFor: 0,
    }),
    addController: build.mutation<Answer<typeof routes.add>, Params<typeof routes.add> & Body<typeof routes.add>>({
      query: ({ site, ...body }) => send(routes.add, { site }, body),
      invalidatesTags: ['Controllers'],
    }),
    readers: build.query<Answer<typeof routes.readers>, string>({
      query: (site) => ask(routes.readers, { site }),
      providesTags: ['Controllers'],
    }),
    addReader: build.mutation<
      Answer<typeof routes.addReader>,
      Params<typeof routes.addReader> & Body<typeof routes.addReader>
    >({
      query: ({ site, ...body }) => send(routes.addReader, { site }, body),
      invalidatesTags: ['Controllers', 'Rig'],
    }),
    offeredDevices: build.query<Answer<typeof routes.offered>, string>({
      query: (site) => ask(routes.offered, { site }),
      keepUnusedDataFor: 0,
      providesTags: ['Controllers', 'Hosts'],
    }),
    changeController: build.mutation<Answer<typeof routes.change>, OfController & Body<typeof routes.change>>({
      query: ({ site, id, ...body }) => send(routes.change, { site, id }, body),
      invalidatesTags: ['Controllers'],
    }),
    changeReader: build.mutation<Answer<typeof routes.changeReader>, OfController & Body<typeof routes.changeReader>>({
      query: ({ site, id, ...body }) => send(routes.changeReader, { site, id }, body),
      invalidatesTags: ['Controllers', 'Rig'],
    }),
    controllerRemoval: build.query<Answer<typeof routes.removal>, OfController>({
      query: (controller) => ask(routes.removal, controller),
      keepUnusedDataFor: 0,
      providesTags: ['Controllers'],
    }),
    readerRemoval: build.query<Answer<typeof routes.readerRemoval>, OfController>({
      query: (reader) => ask(routes.readerRemoval, reader),
      keepUnusedDataFor: 0,
      providesTags: ['Controllers'],
    }),
    removeController: build.mutation<Answer<typeof routes.remove>, OfController & { seen: string }>({
      query: ({ site, id, seen }) => send(routes.remove, { site, id }, { seen }),
      invalidatesTags: ['Controllers', 'Rig'],
    }),
    removeReader: build.mutation<Answer<typeof routes.removeReader>, OfController & { seen: string }>({
      query: ({ site, id, seen }) => send(routes.removeReader, { site, id }, { seen }),
      invalidatesTags: ['Controllers', 'Rig'],
    }),
    setAccepted: build.mutation<Answer<typeof routes.setFormats>, OfController & Body<typeof routes.setFormats>>({
      query: ({ site, id, ...body }) => send(routes.setFormats, { site, id }, body),
      invalidatesTags: ['Controllers', 'Cards'],
    }),
    decideNow: build.query<Answer<typeof routes.decideNow>, { site: string; bits: string }>({
      query: ({ site, bits }) => ask(routes.decideNow, { site }, { bits }),
      providesTags: ['Controllers', 'Cards'],
    }),
    load: build.mutation<Answer<typeof routes.load>, OfController>({
      query: (controller) => ask(routes.load, controller),
    }),
    cancelLoad: build.mutation<Answer<typeof routes.cancelLoad>, OfController>({
      query: (controller) => ask(routes.cancelLoad, controller),
      invalidatesTags: ['Controllers'],
    }),
    events: build.query<Answer<typeof eventApi.list>, { site: string } & Query<typeof eventApi.list>>({
      query: ({ site, limit = 60, ...query }) => ask(eventApi.list, { site }, { limit, ...query }),
      providesTags: ['Events'],
    }),
  }),
});
export const {
  useAddControllerMutation,
  useAddReaderMutation,
  useCancelLoadMutation,
  useChangeControllerMutation,
  useChangeReaderMutation,
  useControllerRemovalQuery,
  useControllersQuery,
  useDecideNowQuery,
  useOfferedDevicesQuery,
  useReaderRemovalQuery,
  useReadersQuery,
  useRemoveControllerMutation,
  useRemoveReaderMutation,
  useSetAcceptedMutation,
  useLazyControllersQuery,
  useLoadMutation,
  useEventsQuery,
} = doorApi;
