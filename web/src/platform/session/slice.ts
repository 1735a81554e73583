/** Whether the session has ended under the page. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { sessionEnded } from '../api/sessionEnded.ts';

export interface SessionState {
  ended: boolean;
  /** When it was resumed last, by the page's own clock: an answer to what was asked before means nothing. */
  resumedAt: number;
}

declare module '../state/hooks.ts' {
  interface RootState {
    session: SessionState;
  }
}

export const sessionSlice = createSlice({
  name: 'session',
  initialState: { ended: false, resumedAt: 0 } as SessionState,
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
