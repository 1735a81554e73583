/** The store: server state in `api`, the interface's own in the slices. */
import { configureStore, type ReducersMapObject } from '@reduxjs/toolkit';
import { draftSlice, saveDrafts } from '../features/formats/editor/drafts.ts';
import { readSlice } from '../parts/inHand/slice.ts';
import { api } from '../platform/api/api.ts';
import { awaySlice } from '../platform/api/away.ts';
import { frameSlice, saveSettings } from '../platform/frame/slice.ts';
import { sessionSlice } from '../platform/session/slice.ts';
import type { RootState } from '../platform/state/hooks.ts';

export const makeStore = () =>
  configureStore({
    reducer: {
      [api.reducerPath]: api.reducer,
      [awaySlice.name]: awaySlice.reducer,
      [frameSlice.name]: frameSlice.reducer,
      [readSlice.name]: readSlice.reducer,
      [sessionSlice.name]: sessionSlice.reducer,
      [draftSlice.name]: draftSlice.reducer,
    } satisfies ReducersMapObject<RootState>,
    middleware: (defaults) => defaults().concat(api.middleware),
  });

export const store = makeStore();
store.subscribe(() => {
  const { frame, drafts } = store.getState();
  saveSettings(frame);
  saveDrafts(drafts);
});
