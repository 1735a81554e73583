/** Steps on a card, states of runs and pads, as people say them. */
import type { PadTells, Run, RunCard, RunKind } from '@rawbits/api';

interface StepLike {
  do: string;
  application: string | null;
  file?: number;
  block?: number;
  slot?: number;
}

/** `create file 1 of 5A0001`, `change key 0 of the card`. */
export function cardStepWords({ do: what, application, file, block, slot }: StepLike): string {
  const of = application ?? 'the card';
  if (what === 'recognise') return 'recognise the card';
  if (file !== undefined) return `${what.includes('file') ? what : `${what} file`} ${file} of ${of}`;
  if (block !== undefined) return `${what} ${block} of ${of}`;
  if (slot !== undefined) return `${what} ${slot} of ${of}`;
  return what.endsWith('application') ? `${what} ${of}` : `${what} of ${of}`;
}

export const RUN_WORDS: Record<RunKind, string> = {
  encode: 'Encode blanks',
  'bring along': 'Bring cards along: new version, new keys',
  verify: 'Verify cards',
  'take back': 'Take cards back',
  'hand back': 'Hand cards back by a grant',
};

export const STATE_WORDS: Record<Run['state'], string> = {
  going: 'going',
  stopped: 'at rest',
  done: 'done',
  cancelled: 'ended before all were done',
};

export const CARD_WORDS: Record<RunCard['state'], string> = {
  waiting: 'waits for a blank',
  begun: 'begun, not finished',
  finished: 'verified',
  differs: 'differs',
  'given up': 'given up',
  freed: 'free',
};

export const PAD_LOOK: Record<PadTells['weight'], string> = {
  waits: 'border-ink-2',
  works: 'border-secondary',
  done: 'border-primary',
  problem: 'border-signal',
};

/** How long the rest takes at the pace so far; undefined where it is not known. */
export function restWords({ paceMs, wanted, done, kind }: Run): string | undefined {
  if (paceMs === null || kind !== 'encode' || done >= wanted) return undefined;
  const seconds = Math.round(((wanted - done) * paceMs) / 1000);
  return seconds < 90 ? `about ${Math.max(1, seconds)} s` : `about ${Math.round(seconds / 60)} min`;
}

export const paceWords = (paceMs: number): string => `${(paceMs / 1000).toFixed(1)} s a card`;
