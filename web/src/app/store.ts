/** The store: server state in `api`, the interface's own in the slices. */
import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { draftSlice, saveDrafts } from '../formats/editor/drafts.ts';
import { frameSlice, saveSettings } from '../frame/slice.ts';
import { readSlice } from '../read/slice.ts';
import { sessionSlice } from '../session/slice.ts';
import { api } from './api.ts';

export const store = configureStore({
  reducer: {
    [api.reducerPath]: api.reducer,
    [frameSlice.name]: frameSlice.reducer,
    [readSlice.name]: readSlice.reducer,
    [sessionSlice.name]: sessionSlice.reducer,
    [draftSlice.name]: draftSlice.reducer,
  },
  middleware: (defaults) => defaults().concat(api.middleware),
});
store.subscribe(() => {
  const { frame, drafts } = store.getState();
  saveSettings(frame);
  saveDrafts(drafts);
});

export type RootState = ReturnType<typeof store.getState>;
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
export const useAppSelector = useSelector.withTypes<RootState>();
