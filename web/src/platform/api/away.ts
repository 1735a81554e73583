/** Whether the server answers: told by whatever was asked of it last, and by the browser where that knows. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface AwayState {
  /** Since when it does not, in milliseconds; null while it does. */
  since: number | null;
}

declare module '../state/hooks.ts' {
  interface RootState {
    away: AwayState;
  }
}

export const awaySlice = createSlice({
  name: 'away',
  initialState: { since: null } as AwayState,
  reducers: {
    serverAway: {
      prepare: () => ({ payload: Date.now() }),
      reducer: (state, { payload }: PayloadAction<number>) => {
        state.since ??= payload;
      },
    },
    serverBack: (state) => {
      state.since = null;
    },
  },
});
export const { serverAway, serverBack } = awaySlice.actions;
