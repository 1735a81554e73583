/** The read in hand: what the Read screen shows, the print typed for it, and how the tape shows it. */
import type { Read } from '@rawbits/api';
import type { Pulse } from '@rawbits/core/line';
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** One way in which a pasted text can be read. */
export interface PastedReading {
  notation: string;
  bits: string;
  note?: string;
  /** Of a recorded line: its pulses. */
  pulses?: Pulse[];
}

export interface ReadInHand {
  bits: string;
  /** Where it came from, in words: a reader's name, or how it was pasted. */
  from: string;
  at: string;
  /** The read kept by the server, once it is. */
  id: string | null;
  /** Every reading of a pasted text; the first was taken. */
  readings: PastedReading[];
  /** What was decided on it at its door; of one kept in this tab by an older page it is not known. */
  decision?: Read['decision'];
}

export type TapeOrder = 'as sent' | 'bytes reversed' | 'bits reversed' | 'inverted';

export interface ReadState {
  inHand: ReadInHand | null;
  /** The newest read of the site, shown in the intake. */
  latest: ReadInHand | null;
  printed: string;
  /** What was typed for other reads, by their bits: it is there again when they are chosen again. */
  prints: Record<string, string>;
  /** The read in hand stays until another is chosen, whatever comes in. */
  pinned: boolean;
  /** The field for the print has the focus: the read is held, whether anything was typed yet or not. */
  printing: boolean;
  /** The latest read came in while the one in hand was held, and was not taken yet. */
  waiting: boolean;
  /** The read of a presentation made from this page, until it arrives. */
  awaited: string | null;
  formatId: string | null;
  /** Which of the windows that hold the print the tape marks, instead of a format. */
  windowIndex: number | null;
  order: TapeOrder;
  countFrom: 'first' | 'last';
}

const initialState: ReadState = {
  inHand: null,
  latest: null,
  printed: '',
  prints: {},
  pinned: false,
  printing: false,
  waiting: false,
  awaited: null,
  formatId: null,
  windowIndex: null,
  order: 'as sent',
  countFrom: 'first',
};

/** Whether the read in hand stays there when another comes in: it is pinned, or a print is being typed for it. */
export const isHeld = ({ inHand, printed, printing, pinned }: ReadState): boolean =>
  inHand !== null && (pinned || printing || printed !== '');

/** So many prints are kept. */
const MOST_PRINTS = 40;

/** What of it outlives a page that is loaded again. */
export type HandKept = Pick<ReadState, 'inHand' | 'printed' | 'prints' | 'pinned' | 'formatId'>;

export const inHandOf = (read: Read): ReadInHand => ({
  bits: read.bits,
  from: read.reader?.name ?? `pasted, ${read.notation ?? 'binary'}`,
  at: read.at,
  id: read.id,
  readings: [],
  decision: read.decision,
});

/** Where a read came from, within a sentence. */
export const whence = (from: string): string => (from.startsWith('pasted') ? from.replace(',', ' as') : `from ${from}`);

function take(state: ReadState, read: ReadInHand): void {
  if (state.inHand?.bits !== read.bits) {
    const { [read.bits]: known = '', ...others } = state.prints;
    if (state.inHand && state.printed !== '') others[state.inHand.bits] = state.printed;
    state.prints = Object.fromEntries(Object.entries(others).slice(-MOST_PRINTS));
    state.printed = known;
    state.formatId = null;
    state.windowIndex = null;
  }
  state.inHand = read;
  state.waiting = false;
  state.order = 'as sent';
}

declare module '../../platform/state/hooks.ts' {
  interface RootState {
    read: ReadState;
  }
}

export const readSlice = createSlice({
  name: 'read',
  initialState,
  reducers: {
    /**
     * A new read came in: it is the latest. It comes in hand, too, unless a print is being typed for the one that is:
     * then it waits to be taken. What was pasted here, or presented from here, was meant to be looked at, unless the one
     * in hand is pinned.
     */
    arrived: (state, { payload }: PayloadAction<ReadInHand>) => {
      state.latest = payload;
      const own = payload.id === null || payload.id === state.awaited;
      if (own) state.awaited = null;
      if ((own && !state.pinned) || !isHeld(state) || payload.bits === state.inHand?.bits) take(state, payload);
      else state.waiting = true;
    },
    /** A credential was presented from this page: its read is to come in hand. */
    presentedHere: (state, { payload }: PayloadAction<string>) => {
      if (state.pinned) return;
      if (state.latest?.id === payload) take(state, state.latest);
      else state.awaited = payload;
    },
    /** The field for the print is being typed in, or was left. */
    printFocused: (state, { payload }: PayloadAction<boolean>) => {
      state.printing = payload;
    },
    /** An earlier read was chosen, or one that waited. */
    chosen: (state, { payload }: PayloadAction<ReadInHand>) => {
      if (payload.bits !== state.inHand?.bits) state.pinned = false;
      take(state, payload);
    },
    pinToggled: (state) => {
      state.pinned = !state.pinned;
    },
    /** What was in hand before this page was loaded again. */
    handFound: (state, { payload }: PayloadAction<HandKept>) => Object.assign(state, payload),
    /** What the site's newest read is, as the server has it; taken in hand when nothing is. */
    latestKnown: (state, { payload }: PayloadAction<ReadInHand>) => {
      if (state.latest && state.latest.at >= payload.at) return;
      state.latest = payload;
      if (!state.inHand) take(state, payload);
    },
    kept: (state, { payload }: PayloadAction<{ bits: string; id: string }>) => {
      for (const read of [state.inHand, state.latest])
        if (read && read.id === null && read.bits === payload.bits) read.id = payload.id;
    },
    /** Another reading of the pasted text was chosen. */
    readingChosen: (state, { payload }: PayloadAction<PastedReading>) => {
      if (!state.inHand) return;
      const { inHand, printed } = state;
      take(state, { ...inHand, bits: payload.bits, from: `pasted, ${payload.notation}` });
      // It is the same card still, and what is printed on it stays.
      delete state.prints[inHand.bits];
      state.printed = printed;
      state.latest = state.inHand;
    },
    printedTyped: (state, { payload }: PayloadAction<string>) => {
      state.printed = payload;
      state.formatId = null;
      state.windowIndex = null;
    },
    formatChosen: (state, { payload }: PayloadAction<string | null>) => {
      state.formatId = payload;
      state.windowIndex = null;
    },
    windowChosen: (state, { payload }: PayloadAction<number | null>) => {
      state.windowIndex = payload;
    },
    orderChosen: (state, { payload }: PayloadAction<TapeOrder>) => {
      state.order = payload;
    },
    countChosen: (state, { payload }: PayloadAction<'first' | 'last'>) => {
      state.countFrom = payload;
    },
    siteLeft: () => initialState,
  },
});
export const {
  arrived,
  presentedHere,
  printFocused,
  chosen,
  pinToggled,
  handFound,
  latestKnown,
  kept,
  readingChosen,
  printedTyped,
  formatChosen,
  windowChosen,
  orderChosen,
  countChosen,
  siteLeft,
} = readSlice.actions;
