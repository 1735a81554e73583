/** What the frame remembers: theme, single-key shortcuts, whether the rig is open, what was said last. */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { keeping, keptUnder } from '../state/kept.ts';

export interface FrameState {
  theme: 'chart-room' | 'night-watch';
  singleKeys: boolean;
  rigOpen: boolean;
  /** Of a site, the readers whose reads come in by themselves; all where none are named. */
  myReaders: Record<string, string[]>;
  commandsOpen: boolean;
  shortcutsOpen: boolean;
  /** The heading at which the guide is open; empty for the screen's own. */
  help: string | null;
  /** The last thing done, in words, for the status line and screen readers; quiet where the screen shows it as it is. */
  said: { text: string; at: number; quiet: boolean } | null;
  /** A change that was saved and waits to be loaded into controllers of its site. */
  toLoad: { site: string; change: string } | null;
  /** Whether the site's live feed is followed; a refused stream is asked for again. */
  follows: boolean;
}

const KEY = 'rawbits.settings';

const { theme = 'chart-room', singleKeys = true, rigOpen = false, myReaders = {} } = keptUnder<FrameState>(KEY);
const keep = keeping(KEY, { theme, singleKeys, rigOpen, myReaders });

export const saveSettings = ({ theme, singleKeys, rigOpen, myReaders }: FrameState): void =>
  keep({ theme, singleKeys, rigOpen, myReaders });

const initialState: FrameState = {
  theme,
  singleKeys,
  rigOpen,
  myReaders,
  commandsOpen: false,
  shortcutsOpen: false,
  help: null,
  said: null,
  toLoad: null,
  follows: true,
};

declare module '../state/hooks.ts' {
  interface RootState {
    frame: FrameState;
  }
}

export const frameSlice = createSlice({
  name: 'frame',
  initialState,
  reducers: {
    themeToggled: (state) => {
      state.theme = state.theme === 'chart-room' ? 'night-watch' : 'chart-room';
    },
    singleKeysToggled: (state) => {
      state.singleKeys = !state.singleKeys;
    },
    rigToggled: (state) => {
      state.rigOpen = !state.rigOpen;
    },
    /** Whose reads come in by themselves at a site; all for an empty list. */
    readersChosen: (state, { payload }: PayloadAction<{ site: string; readers: string[] }>) => {
      state.myReaders = { ...state.myReaders, [payload.site]: payload.readers };
    },
    commandsShown: (state, { payload }: PayloadAction<boolean>) => {
      state.commandsOpen = payload;
    },
    shortcutsShown: (state, { payload }: PayloadAction<boolean>) => {
      state.shortcutsOpen = payload;
    },
    helpShown: (state, { payload }: PayloadAction<string | null>) => {
      state.help = payload;
    },
    leftToLoad: (state, { payload }: PayloadAction<{ site: string; change: string } | null>) => {
      state.toLoad = payload;
    },
    followed: (state, { payload }: PayloadAction<boolean>) => {
      state.follows = payload;
    },
    said: {
      prepare: (text: string, quiet = false) => ({ payload: { text, at: Date.now(), quiet } }),
      reducer: (state, { payload }: PayloadAction<{ text: string; at: number; quiet: boolean }>) => {
        state.said = payload;
      },
    },
  },
});
export const {
  themeToggled,
  singleKeysToggled,
  rigToggled,
  readersChosen,
  commandsShown,
  shortcutsShown,
  helpShown,
  leftToLoad,
  followed,
  said,
} = frameSlice.actions;
