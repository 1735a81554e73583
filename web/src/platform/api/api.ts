/** The server's state: one RTK Query API, to which each feature adds its endpoints. */
import type { Failure } from '@rawbits/core/failure';
import { type BaseQueryFn, createApi } from '@reduxjs/toolkit/query/react';
import { type AwayState, serverAway, serverBack } from './away.ts';
import { RequestKeys } from './requestKeys.ts';
import { sessionEnded } from './sessionEnded.ts';

export interface ApiRequest {
  path: string;
  method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  body?: unknown;
  /** The key of the request, where it outlives this page; one is made otherwise. */
  key?: string;
}

export interface ApiError extends Failure {
  /** HTTP status; 0 when the server did not answer. */
  status: number;
}

const AWAY: ApiError = {
  status: 0,
  code: 'server-away',
  message: 'The server does not answer.',
  hint: 'What you typed is still here. Try again in a moment: what was saved already is not saved twice.',
};
/** A change whose answer did not come is sent once more by itself, under the same key. */
const AGAIN_AFTER_MS = 800;

const keys = new RequestKeys();

async function send({ path, method = 'GET', body }: ApiRequest, key: string | undefined, signal: AbortSignal) {
  return fetch(`/api${path}`, {
    method,
    signal,
    headers: {
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...(key !== undefined && { 'idempotency-key': key }),
    },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
}

async function sendSurely(request: ApiRequest, key: string | undefined, signal: AbortSignal): Promise<Response> {
  try {
    return await send(request, key, signal);
  } catch (error) {
    if (key === undefined || signal.aborted) throw error;
    await new Promise((resolve) => setTimeout(resolve, AGAIN_AFTER_MS));
    return send(request, key, signal);
  }
}

const baseQuery: BaseQueryFn<ApiRequest, unknown, ApiError> = async (request, { signal, dispatch, getState }) => {
  const changes = (request.method ?? 'GET') !== 'GET' && request.path !== '/session';
  const key = changes ? (request.key ?? keys.of(request)) : undefined;
  const sentAt = performance.now();
  let response: Response;
  try {
    response = await sendSurely(request, key, signal);
  } catch {
    if (!signal.aborted) dispatch(serverAway());
    return { error: AWAY };
  }
  if ((getState() as { away: AwayState }).away.since !== null) dispatch(serverBack());
  const answer = (await response.json().catch(() => ({}))) as { error?: Failure };
  // Whether it was done is known now; the same request made again is another one.
  if (response.status < 500) keys.done(request);
  if (response.ok) return { data: answer };
  if (response.status === 401 && answer.error?.code === 'signed-out') dispatch(sessionEnded(sentAt));
  return { error: { ...(answer.error ?? { ...AWAY, code: 'unexpected' }), status: response.status } };
};

export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: [
    'Session',
    'Reads',
    'Formats',
    'Cards',
    'Cardholders',
    'Filters',
    'Controllers',
    'Events',
    'Trail',
    'Rig',
    'Hosts',
    'Operators',
    'Cases',
    'Work',
    'Keys',
    'Pad',
    'Plans',
    'Runs',
    'Access',
    'Arming',
  ],
  keepUnusedDataFor: 300,
  endpoints: () => ({}),
});
