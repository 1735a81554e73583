/** Whether the session has ended under the page. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { sessionEnded } from '../app/sessionEnded.ts';

export const sessionSlice = createSlice({
  name: 'session',
  initialState: { ended: false, resumedAt: 0 },
  reducers: {
    sessionResumed: {
      prepare: () => ({ payload: performance.now() }),
      reducer: (state, { payload }: PayloadAction<number>) => {
        state.ended = false;
        state.resumedAt = payload;
      },
    },
  },
  extraReducers: (builder) => {
    builder.addCase(sessionEnded, (state, { payload: sentAt }) => {
      if (sentAt > state.resumedAt) state.ended = true;
    });
  },
});
export const { sessionResumed } = sessionSlice.actions;
