/** Watches the key store of a test's servers: which keys go out of it, and all that comes over HTTP or is heard elsewhere. */
import { bytesOf } from '@rawbits/core/cipher';
import { keysOut, type WayOut } from '../features/keys/door.ts';

interface Out {
  way: WayOut;
  key?: string;
}

/** Replaces `fetch` until `end`. */
export function watchKeys() {
  let out: Out[] = [];
  let heard: string[] = [];
  /** Every way that was gone since the beginning. */
  const ways = new Set<WayOut>();
  const note = (message: unknown) => {
    const went = message as Out;
    out.push(went);
    ways.add(went.way);
  };
  keysOut.subscribe(note);
  const { fetch } = globalThis;
  globalThis.fetch = async (...args) => {
    const response = await fetch(...args);
    heard.push(await response.clone().text());
    return response;
  };
  return {
    ways,
    /** Whether something went out this way since `clear`; of a key, where one is named. */
    wentOut: (way: WayOut, key?: string) =>
      out.some((one) => one.way === way && (key === undefined || one.key === key)),
    hear: (texts: readonly string[]) => void heard.push(...texts),
    hasHeard: (text: string) => heard.some((one) => one.includes(text)),
    /** Whether these bytes stand in anything that was heard since `clear`, in hex or in base64. */
    hasHeardKey(hex: string): boolean {
      const bytes = Buffer.from(bytesOf(hex, 'key'));
      const forms = [bytes.toString('base64').replace(/=+$/, ''), bytes.toString('base64url')];
      return heard.some((text) => text.toLowerCase().includes(hex) || forms.some((form) => text.includes(form)));
    },
    clear(): void {
      out = [];
      heard = [];
    },
    end(): void {
      keysOut.unsubscribe(note);
      globalThis.fetch = fetch;
    },
  };
}
