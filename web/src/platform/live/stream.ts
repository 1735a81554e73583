/**
 * The stream of a site's feed. A page that is out of sight gives its connection back (a browser allows few to one server)
 * and goes on later where it was; one that was refused is asked for again.
 */
import type { FeedEntry } from '@rawbits/api';

const REFUSED_AGAIN_MS = 5000;

export interface Hears {
  entry(entry: FeedEntry): void;
  /** The feed could not go on where this page was. */
  lost(): void;
  /** Whether the stream is followed; refused where the session has ended, or there are too many streams. */
  followed(followed: boolean): void;
  /** It broke off; the browser tries again by itself. */
  broke(): void;
}

export class Stream {
  private source: EventSource | undefined;
  private last: number | undefined;
  private again: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly site: string,
    private readonly hears: Hears,
  ) {
    this.onVisibility();
    document.addEventListener('visibilitychange', this.onVisibility);
    window.addEventListener('pagehide', this.disconnect);
    window.addEventListener('pageshow', this.onVisibility);
  }

  close(): void {
    this.disconnect();
    document.removeEventListener('visibilitychange', this.onVisibility);
    window.removeEventListener('pagehide', this.disconnect);
    window.removeEventListener('pageshow', this.onVisibility);
  }

  private readonly onVisibility = (): void =>
    document.visibilityState === 'visible' ? this.connect() : this.disconnect();

  private readonly disconnect = (): void => {
    clearTimeout(this.again);
    this.source?.close();
    this.source = undefined;
  };

  private connect(): void {
    if (this.source) return;
    const from = this.last === undefined ? '' : `?after=${this.last}`;
    const source = new EventSource(`/api/sites/${this.site}/live${from}`);
    this.source = source;
    source.addEventListener('hello', (event) => {
      this.hears.followed(true);
      this.last ??= Number(event.lastEventId);
    });
    source.addEventListener('change', (event) => {
      this.last = Number(event.lastEventId);
      this.hears.entry(JSON.parse((event as MessageEvent<string>).data) as FeedEntry);
    });
    source.addEventListener('reset', (event) => {
      this.last = Number(event.lastEventId);
      this.hears.lost();
    });
    source.addEventListener('error', () => {
      // A stream that broke off is opened again by the browser; one that was refused is closed for good.
      if (this.source === source) this.hears.broke();
      if (source.readyState !== EventSource.CLOSED || this.source !== source) return;
      this.disconnect();
      this.hears.followed(false);
      this.again = setTimeout(this.onVisibility, REFUSED_AGAIN_MS);
    });
  }
}
