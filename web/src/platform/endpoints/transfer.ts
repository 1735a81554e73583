import { type Answer, type Body, type Params, transferApi as routes } from '@rawbits/api';
import { api } from '../api/api.ts';
import { ask, send } from '../api/ask.ts';

export const transferApi = api.injectEndpoints({
  endpoints: (build) => ({
    beginImport: build.mutation<Answer<typeof routes.begin>, void>({ query: () => send(routes.begin, {}, {}) }),
    sendPiece: build.mutation<Answer<typeof routes.piece>, Params<typeof routes.piece> & Body<typeof routes.piece>>({
      query: ({ id, ...body }) => send(routes.piece, { id }, body),
    }),
    finishImport: build.mutation<
      Answer<typeof routes.finish>,
      Params<typeof routes.finish> & Body<typeof routes.finish>
    >({
      query: ({ id, ...body }) => send(routes.finish, { id }, body),
      invalidatesTags: ['Session', 'Formats'],
    }),
    giveUpImport: build.mutation<Answer<typeof routes.giveUp>, Params<typeof routes.giveUp>>({
      query: (params) => ask(routes.giveUp, params),
    }),
  }),
});
export const { useBeginImportMutation, useSendPieceMutation, useFinishImportMutation, useGiveUpImportMutation } =
  transferApi;
