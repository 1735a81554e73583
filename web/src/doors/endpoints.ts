import type { AccessEvent, Controller, Load } from '@rawbits/core/api';
import { api } from '../app/api.ts';

export const doorApi = api.injectEndpoints({
  endpoints: (build) => ({
    controllers: build.query<Controller[], string>({
      query: (site) => ({ path: `/sites/${site}/controllers` }),
      providesTags: ['Controllers'],
    }),
    setAccepted: build.mutation<Controller, { site: string; id: string; formats: string[] }>({
      query: ({ site, id, formats }) => ({
        path: `/sites/${site}/controllers/${id}/formats`,
        method: 'PUT',
        body: { formats },
      }),
      invalidatesTags: ['Controllers', 'Cards'],
    }),
    load: build.mutation<Load, { site: string; id: string }>({
      query: ({ site, id }) => ({ path: `/sites/${site}/controllers/${id}/loads`, method: 'POST' }),
    }),
    events: build.query<AccessEvent[], { site: string; limit?: number }>({
      query: ({ site, limit = 60 }) => ({ path: `/sites/${site}/events?limit=${limit}` }),
      providesTags: ['Events'],
    }),
  }),
});
export const { useControllersQuery, useSetAcceptedMutation, useLoadMutation, useEventsQuery } = doorApi;
