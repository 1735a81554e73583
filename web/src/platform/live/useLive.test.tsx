/** What a page asks for again when the feed says that something changed. */
import { type Card, cardApi, caseApi, doorApi, type Read, readApi } from '@rawbits/api';
import { act, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { controller } from '../../testing/doors.ts';
import { SITE, StandIn, show } from '../../testing/page.tsx';
import { useCardsInfiniteQuery } from '../endpoints/cards.ts';
import { useCasesQuery } from '../endpoints/cases.ts';
import { useControllersQuery } from '../endpoints/doors.ts';
import { useReadsQuery } from '../endpoints/reads.ts';
import { useLive } from './useLive.ts';

/** The browser's stream, told what to bring. */
class Stream {
  static open: Stream[] = [];
  readyState = 1;
  private readonly listeners = new Map<string, (event: unknown) => void>();
  private seq = 0;
  constructor(readonly url: string) {
    Stream.open.push(this);
  }
  addEventListener(kind: string, listener: (event: unknown) => void): void {
    this.listeners.set(kind, listener);
  }
  close(): void {
    this.readyState = 2;
  }
  bring(kind: string, data: unknown): void {
    const seq = ++this.seq;
    this.listeners.get('change')!({ lastEventId: String(seq), data: JSON.stringify({ seq, kind, data }) });
  }
  reset(): void {
    this.listeners.get('reset')!({ lastEventId: '900' });
  }
}

const card = (id: string, printed = ''): Card => ({
  id,
  formatId: '26-8-16',
  facility: '58',
  number: id.replace(/\D/g, ''),
  printed,
  state: 'active',
  holder: null,
  box: null,
  validFrom: null,
  validTo: null,
  notes: '',
  revision: 1,
  bits: null,
  groups: [],
  loaded: { in: 0, of: 0 },
  opens: { doors: [], asOther: [], unknownAt: [] },
});
const read = (id: string): Read => ({
  id,
  at: '2026-11-25T10:00:00.000Z',
  bits: '1010',
  source: 'paste',
  notation: null,
  reader: null,
  decision: null,
});

const nothing = () => {};

function Page() {
  useLive(SITE, nothing);
  const [far, setFar] = useState(false);
  const { data: reads = [] } = useReadsQuery({ site: SITE, limit: 60 });
  const { data: controllers = [] } = useControllersQuery(SITE);
  const { data: cards, fetchNextPage } = useCardsInfiniteQuery({ site: SITE, order: 'newest' });
  useCasesQuery(SITE);
  return (
    <>
      <button type="button" disabled={far} onClick={() => void fetchNextPage().then(() => setFar(true))}>
        more
      </button>
      <p data-testid="cards">{cards?.pages.flatMap((page) => page.cards.map((c) => c.printed || c.id)).join(' ')}</p>
      <p data-testid="controllers">{controllers.map((c) => `${c.id}:${c.loadedCards}`).join(' ')}</p>
      <p data-testid="reads">{reads.map((r) => r.id).join(' ')}</p>
    </>
  );
}

describe('the live feed', () => {
  let server: StandIn;
  let stream: Stream;
  beforeEach(async () => {
    Stream.open = [];
    vi.stubGlobal('EventSource', Object.assign(Stream, { CLOSED: 2 }));
    server = new StandIn()
      .on(readApi.list, { site: SITE }, () => [read('r1')])
      .on(doorApi.list, { site: SITE }, () => [controller('shed'), controller('lab')])
      .on(doorApi.one, { site: SITE, id: 'lab' }, () => controller('lab', { loadedCards: 7 }))
      .on(caseApi.list, { site: SITE }, () => [])
      .on(cardApi.list, { site: SITE }, (_body, query) => ({
        cards: query.has('after') ? [card('c3'), card('c4')] : [card('c1'), card('c2')],
        foundBy: [],
        total: 4,
        more: false,
        next: query.has('after') ? null : 'p2',
      }))
      .on(cardApi.one, { site: SITE, id: 'c3' }, () => card('c3', 'changed'));
    show(<Page />);
    await waitFor(() => expect(screen.getByTestId('cards').textContent).toBe('c1 c2'));
    stream = Stream.open[0]!;
    server.asked.length = 0;
  });
  const settled = () => act(() => new Promise((resolve) => setTimeout(resolve, 1300)));
  const cards = `GET /sites/${SITE}/cards`;

  it('a read is put where it belongs, and nothing is asked for', async () => {
    act(() => stream.bring('read', read('r2')));
    act(() => stream.bring('read', read('r2')));
    await waitFor(() => expect(screen.getByTestId('reads').textContent).toBe('r2 r1'));
    await settled();
    expect(server.lines).toEqual([]);
  });

  it('of a list that is here with its first page that page is fetched, once for all that happens in a second', async () => {
    act(() => {
      for (let i = 0; i < 9; i++) stream.bring('cards', { ids: [`c${i}`] });
    });
    await settled();
    expect(server.lines.sort()).toEqual([`${cards}?order=newest`, `GET /sites/${SITE}/controllers`]);
  });

  it('of a list that was scrolled far the one card is fetched that changed', async () => {
    act(() => screen.getByRole('button').click());
    await waitFor(() => expect(screen.getByTestId('cards').textContent).toBe('c1 c2 c3 c4'));
    server.asked.length = 0;
    act(() => stream.bring('cards', { ids: ['c3'] }));
    act(() => stream.bring('cards', { ids: ['elsewhere'] }));
    await settled();
    expect(server.lines.filter((line) => line.startsWith(cards))).toEqual([`${cards}/c3`]);
    expect(screen.getByTestId('cards').textContent).toBe('c1 c2 changed c4');
  });

  it('a controller that is named is fetched alone; cases are left where they are', async () => {
    act(() => stream.bring('controllers', { ids: ['lab'] }));
    await settled();
    expect(server.lines).toEqual([`GET /sites/${SITE}/controllers/lab`]);
    expect(screen.getByTestId('controllers').textContent).toBe('shed:0 lab:7');
  });

  it('where it cannot be told what changed, all of it is fetched', async () => {
    act(() => stream.reset());
    await settled();
    expect(server.lines.sort()).toEqual([
      `GET /sites/${SITE}/cards?order=newest`,
      `GET /sites/${SITE}/cases`,
      `GET /sites/${SITE}/controllers`,
      `GET /sites/${SITE}/reads?limit=60`,
    ]);
  });
});
