/** Pasted reads that could not be kept wait until they can: with no server, with the session ended, with the database away. */
import { formatApi, readApi, translationApi } from '@rawbits/api';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, it, vi } from 'vitest';
import type { ApiError } from '../platform/api/api.ts';
import { sessionResumed } from '../platform/session/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { SITE, StandIn, show } from '../testing/page.tsx';
import { Away } from './Away.tsx';
import { useIntake } from './useIntake.ts';
import { waitsFor } from './waitingReads.ts';

const BITS = '00111010010001111111001001';

/** What answers a read instead of the server, while it is set. */
let instead: (() => Response) | undefined;
let server: StandIn;
beforeEach(() => {
  instead = undefined;
  server = new StandIn()
    .on(formatApi.ofSite, { site: SITE }, () => [])
    .on(translationApi.list, { site: SITE }, () => [])
    .on(readApi.add, { site: SITE }, () => ({
      id: 'r1',
      at: '2026-11-25T10:00:00.000Z',
      bits: BITS,
      source: 'paste' as const,
      notation: 'binary digits',
      reader: null,
      decision: null,
    }));
  const answering = fetch;
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) =>
    init?.method === 'POST' && instead ? Promise.resolve().then(instead) : answering(url, init),
  );
});

function Paste() {
  const takeIn = useIntake();
  const { may } = useSite();
  return (
    <>
      <Away />
      {/* As the frame: nothing is pasted before the session is known. */}
      {may('take reads') && (
        <button type="button" onClick={() => takeIn(BITS)}>
          paste
        </button>
      )}
    </>
  );
}
const kept = () => server.lines.filter((line) => line === `POST /sites/${SITE}/reads`).length;
const refusal = (status: number, code: string) => () => Response.json({ error: { code, message: code } }, { status });

it('a session that ended while it was pasted: it is sent after the sign-in', async () => {
  const { store } = show(<Paste />);
  instead = refusal(401, 'signed-out');
  await userEvent.click(await screen.findByText('paste'));
  await waitFor(() => expect(store.getState().session.ended).toBe(true));
  expect(kept()).toBe(0);
  instead = undefined;
  store.dispatch(sessionResumed());
  await waitFor(() => expect(kept()).toBe(1));
  await waitFor(() => expect(store.getState().read.inHand?.id).toBe('r1'));
});

it('no server: it says so, counts what waits, and sends it once', async () => {
  const { store } = show(<Paste />);
  instead = () => {
    throw new TypeError('fetch failed');
  };
  await userEvent.click(await screen.findByText('paste'));
  expect((await screen.findByTestId('away')).textContent).toContain('1 read waits');
  instead = undefined;
  await waitFor(() => expect(store.getState().away.since).toBeNull());
  await waitFor(() => expect(kept()).toBe(1));
  await new Promise((resolve) => setTimeout(resolve, 50));
  expect(kept()).toBe(1);
}, 15_000);

it('what is refused for what it is does not wait; what is refused for when it is does', async () => {
  expect([0, 401, 429, 503].map((status) => waitsFor({ status } as ApiError))).toEqual([true, true, true, true]);
  expect([403, 404, 409, 413, 422].map((status) => waitsFor({ status } as ApiError))).toEqual(Array(5).fill(false));
  const { store } = show(<Paste />);
  instead = refusal(422, 'too-much');
  await userEvent.click(await screen.findByText('paste'));
  await waitFor(() => expect(store.getState().frame.said?.text).toContain('could not be kept'));
});
