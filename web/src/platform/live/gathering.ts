/** Gathers what a site's feed tells and has it asked for again, at most once a second, however much happens. */
import type { FeedEntry, Read } from '@rawbits/api';
import { api } from '../api/api.ts';
import type { AppDispatch } from '../state/hooks.ts';
import { cardsChanged, controllersChanged, readArrived } from './fetchedAgain.ts';
import { loadProgressed } from './loadProgressed.ts';
import { EVERYTHING, outdatedBy } from './outdated.ts';

const REFETCH_MS = 1000;

export class Gathering {
  private readonly waiting: FeedEntry[] = [];
  private missed = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private refetchedAt = 0;

  constructor(
    private readonly site: string,
    private readonly dispatch: AppDispatch,
    /** Told of every read that a reader delivered. */
    private readonly onRead: (read: Read) => void,
  ) {}

  take(entry: FeedEntry): void {
    if (entry.kind === 'load') return void this.dispatch(loadProgressed(this.site, entry.data));
    if (entry.kind === 'read') {
      const read = entry.data as Read;
      if (read.source === 'reader') this.onRead(read);
      if (!this.dispatch(readArrived(this.site, read))) this.dispatch(api.util.invalidateTags(['Reads']));
    }
    this.waiting.push(entry);
    this.soon();
  }

  /** Something was missed, and nobody knows what. */
  lost(): void {
    this.missed = true;
    this.soon();
  }

  close(): void {
    clearTimeout(this.timer);
  }

  private soon(): void {
    this.timer ??= setTimeout(() => this.refetch(), Math.max(0, this.refetchedAt + REFETCH_MS - Date.now()));
  }

  private refetch(): void {
    this.timer = undefined;
    this.refetchedAt = Date.now();
    const outdated = this.missed ? { tags: EVERYTHING, cards: [], controllers: [] } : outdatedBy(this.waiting);
    this.missed = false;
    this.waiting.length = 0;
    this.dispatch(api.util.invalidateTags(outdated.tags));
    void this.dispatch(cardsChanged(this.site, outdated.cards));
    void this.dispatch(controllersChanged(this.site, outdated.controllers));
  }
}
