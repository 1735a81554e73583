/** Commands that are not about a file's data: taken out of the session, with the lengths that they may have. */
import type { FilesCard, Result } from './card.ts';
import type { Command } from './commands.ts';
import { refuse } from './status.ts';

const NOTHING = new Uint8Array(0);

/** A command in one frame, MACed under the newer authentication; `lengths` of its clear data. */
export function managed(
  lengths: readonly number[] | ((length: number) => boolean),
  carryOut: (card: FilesCard, data: Uint8Array) => Result | undefined,
): Command {
  const allowed = typeof lengths === 'function' ? lengths : (length: number) => lengths.includes(length);
  return {
    lengthOf: (_card, first) => first.length,
    carryOut: (card, code, data) => {
      const { session } = card;
      const clear = session ? session.command(code, NOTHING, data, card.managed(session)) : data;
      if (!allowed(clear.length)) refuse('length');
      return carryOut(card, clear) ?? {};
    },
  };
}

/** A command whose data after `header` bytes are enciphered by the session, which it needs; `length` of the clear data. */
export function enciphered(
  header: number,
  length: (header: Uint8Array) => number | ((clear: Uint8Array) => number),
  carryOut: (card: FilesCard, header: Uint8Array, clear: Uint8Array) => Result | undefined,
): Command {
  return {
    lengthOf: (_card, first) => first.length,
    carryOut: (card, code, data) => {
      if (data.length <= header) refuse('length');
      const session = card.session ?? refuse('authentication');
      const head = data.subarray(0, header);
      const clear = session.command(code, head, data.subarray(header), 'full', length(head));
      return carryOut(card, head, clear) ?? {};
    },
  };
}
