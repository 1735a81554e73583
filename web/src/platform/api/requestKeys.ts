/**
 * Keys of requests (`Idempotency-Key`): a change whose answer did not come keeps its key, so that sending it again, by
 * itself or by hand, is the same request to the server and is carried out once.
 */
const KEPT_MS = 10 * 60_000;

export class RequestKeys {
  private readonly open = new Map<string, { key: string; at: number }>();

  constructor(
    private readonly now: () => number = Date.now,
    private readonly make: () => string = () => crypto.getRandomValues(new Uint32Array(4)).join('-'),
  ) {}

  /** The key of a request: the one it had, while it is not known whether that was carried out. */
  of(request: object): string {
    const text = JSON.stringify(request);
    const known = this.open.get(text);
    if (known && this.now() - known.at < KEPT_MS) return known.key;
    const key = this.make();
    this.open.set(text, { key, at: this.now() });
    return key;
  }

  done(request: object): void {
    this.open.delete(JSON.stringify(request));
  }
}
