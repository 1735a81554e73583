/** Single things put where they stand in their lists: those that the feed brings, and those fetched again because it says so. */
import type { Read } from '@rawbits/api';
import { cardPut, longListsOf, stockApi } from '../endpoints/cards.ts';
import { doorApi } from '../endpoints/doors.ts';
import { NEWEST_READS, readApi } from '../endpoints/reads.ts';
import type { AppDispatch, RootState } from '../state/hooks.ts';

type Thunk<T> = (dispatch: AppDispatch, getState: () => RootState) => T;

const FRESH = { forceRefetch: true, subscribe: false } as const;

/** Puts a read at the head of the lists of the newest; false where one of them is only on its way and must be asked for again. */
export const readArrived =
  (site: string, read: Read): Thunk<boolean> =>
  (dispatch, getState) => {
    let here = true;
    for (const args of readApi.util.selectCachedArgsForQuery(getState(), 'reads')) {
      if (args.site !== site || args.search || args.before) continue;
      here &&= readApi.endpoints.reads.select(args)(getState()).status === 'fulfilled';
      const put = readApi.util.updateQueryData('reads', args, (reads) => {
        if (reads.some(({ id }) => id === read.id)) return;
        reads.unshift(read);
        if (reads.length > Number(args.limit ?? NEWEST_READS)) reads.pop();
      });
      dispatch(put);
    }
    return here;
  };

/** Fetches cards that changed into lists that are scrolled far, instead of all their pages. */
export const cardsChanged =
  (site: string, ids: readonly string[]): Thunk<Promise<void>> =>
  async (dispatch, getState) => {
    for (const id of ids) {
      if (longListsOf(getState(), site, id).length === 0) continue;
      const { data: card } = await dispatch(stockApi.endpoints.card.initiate({ site, id }, FRESH));
      if (card) dispatch(cardPut(site, card));
    }
  };

/** Fetches controllers that changed into the list of them. */
export const controllersChanged =
  (site: string, ids: readonly string[]): Thunk<Promise<void>> =>
  async (dispatch, getState) => {
    for (const id of ids) {
      const known = doorApi.endpoints.controllers.select(site)(getState()).data;
      if (!known?.some((controller) => controller.id === id)) continue;
      const { data: controller } = await dispatch(doorApi.endpoints.controller.initiate({ site, id }, FRESH));
      if (!controller) continue;
      dispatch(
        doorApi.util.updateQueryData('controllers', site, (list) =>
          list.map((other) => (other.id === id ? controller : other)),
        ),
      );
    }
  };
