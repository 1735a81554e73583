import { type Answer, type Body, type Params, facilityCodeApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';
import { USE } from './cards.ts';

type OfCode = Params<typeof routes.update>;

const facilityCodeApi = api.injectEndpoints({
  endpoints: (build) => ({
    facilityCodes: build.query<Answer<typeof routes.list>, string>({
      query: (site) => ask(routes.list, { site }),
      providesTags: ['Formats'],
    }),
    collisions: build.query<Answer<typeof routes.collisions>, string>({
      query: (site) => ask(routes.collisions, { site }),
      providesTags: ['Formats', { type: 'Cards', id: USE }, 'Controllers'],
    }),
    addFacilityCode: build.mutation<
      Answer<typeof routes.add>,
      Params<typeof routes.add> & { code: Body<typeof routes.add> }
    >({
      query: ({ site, code }) => send(routes.add, { site }, code),
      invalidatesTags: ['Formats'],
    }),
    describeFacilityCode: build.mutation<Answer<typeof routes.update>, OfCode & { body: Body<typeof routes.update> }>({
      query: ({ site, id, body }) => send(routes.update, { site, id }, body),
      invalidatesTags: ['Formats'],
    }),
    removeFacilityCode: build.mutation<Answer<typeof routes.remove>, OfCode>({
      query: (code) => ask(routes.remove, code),
      invalidatesTags: ['Formats'],
    }),
  }),
});
export const {
  useFacilityCodesQuery,
  useCollisionsQuery,
  useAddFacilityCodeMutation,
  useDescribeFacilityCodeMutation,
  useRemoveFacilityCodeMutation,
} = facilityCodeApi;
