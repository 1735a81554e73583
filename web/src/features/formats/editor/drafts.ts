/**
 * Drafts: formats being defined or changed. A draft is its layout line; every step back is a line too, so undo and redo
 * have no limit. Drafts are kept in the browser and survive a reload.
 */
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { keeping, keptUnder } from '../../../platform/state/kept.ts';

export interface Draft {
  line: string;
  past: string[];
  future: string[];
  id: string;
  name: string;
  notes: string;
  source: string;
  reason: string;
  /** The version that it began from; 0 for a new format. */
  basedOn: number;
  /** When the line was last typed at, so that a burst of typing is one step back. */
  typedAt: number;
}
export type DraftText = Pick<Draft, 'id' | 'name' | 'notes' | 'source' | 'reason'>;

/** The key of the draft of a format that does not exist yet. */
export const NEW = 'new';
const BURST_MS = 1000;
const KEY = 'rawbits.drafts';

export type Drafts = Record<string, Draft>;

const saved = keptUnder(KEY) as Drafts;

export const saveDrafts = keeping<Drafts>(KEY, saved);

export const emptyDraft = (line = '', more: Partial<Draft> = {}): Draft => ({
  line,
  past: [],
  future: [],
  id: '',
  name: '',
  notes: '',
  source: '',
  reason: '',
  basedOn: 0,
  typedAt: 0,
  ...more,
});

function step(draft: Draft, line: string): void {
  if (line === draft.line) return;
  draft.past.push(draft.line);
  draft.future = [];
  draft.line = line;
}

declare module '../../../platform/state/hooks.ts' {
  interface RootState {
    drafts: Drafts;
  }
}

export const draftSlice = createSlice({
  name: 'drafts',
  initialState: saved,
  reducers: {
    draftOpened: (drafts, { payload }: PayloadAction<{ key: string; draft: Draft }>) => {
      drafts[payload.key] ??= payload.draft;
    },
    /** An edit on the tape or in the table: always a step of its own. */
    draftDrawn: (drafts, { payload }: PayloadAction<{ key: string; line: string }>) => {
      const draft = drafts[payload.key];
      if (!draft) return;
      draft.typedAt = 0;
      step(draft, payload.line);
    },
    draftTyped: {
      prepare: (key: string, line: string) => ({ payload: { key, line, at: Date.now() } }),
      reducer: (drafts, { payload }: PayloadAction<{ key: string; line: string; at: number }>) => {
        const draft = drafts[payload.key];
        if (!draft) return;
        if (payload.at - draft.typedAt < BURST_MS && draft.past.length > 0) draft.line = payload.line;
        else step(draft, payload.line);
        draft.future = [];
        draft.typedAt = payload.at;
      },
    },
    draftUndone: (drafts, { payload }: PayloadAction<string>) => {
      const draft = drafts[payload];
      const line = draft?.past.pop();
      if (!draft || line === undefined) return;
      draft.future.push(draft.line);
      draft.line = line;
      draft.typedAt = 0;
    },
    draftRedone: (drafts, { payload }: PayloadAction<string>) => {
      const draft = drafts[payload];
      const line = draft?.future.pop();
      if (!draft || line === undefined) return;
      draft.past.push(draft.line);
      draft.line = line;
      draft.typedAt = 0;
    },
    draftDescribed: (drafts, { payload }: PayloadAction<{ key: string; text: Partial<DraftText> }>) => {
      const draft = drafts[payload.key];
      if (draft) Object.assign(draft, payload.text);
    },
    draftDiscarded: (drafts, { payload }: PayloadAction<string>) => {
      delete drafts[payload];
    },
  },
});
export const { draftOpened, draftDrawn, draftTyped, draftUndone, draftRedone, draftDescribed, draftDiscarded } =
  draftSlice.actions;
