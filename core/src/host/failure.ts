/** What a card refuses with, in words for whoever encodes (status codes of DOMAIN §4). */
import { RawBitsError } from '../failure/index.ts';

const WORDS: Record<number, [string, string]> = {
  12: ['nothing-to-commit', 'Nothing was pending.'],
  14: ['card-full', 'The card has not enough memory left.'],
  28: ['command-unknown', 'The card does not know this command.'],
  30: ['integrity', 'The card found the command changed on its way, or made under another key.'],
  64: ['key-missing', 'The card has no key of this number.'],
  126: ['length', 'The card takes this command in another length.'],
  157: ['not-permitted', 'The card never permits this.'],
  158: ['parameter', 'The card does not take these parameters.'],
  160: ['application-missing', 'The card has no such application.'],
  174: ['authentication', 'The card wants to be authenticated by another key, or the key is not right.'],
  190: ['boundary', 'This goes past what the card holds there.'],
  202: ['aborted', 'The card was still waiting for the rest of another command.'],
  206: ['too-many', 'The card holds no more of these.'],
  222: ['exists', 'There is one of this number or name on the card already.'],
  240: ['file-missing', 'The application has no such file.'],
};

/** A card refused a command, or answered what cannot be. */
export class CardRefusal extends RawBitsError {
  constructor(
    readonly status: number,
    command: string,
  ) {
    const [code, words] = WORDS[status] ?? ['card-error', 'The card reports a fault.'];
    const hex = status.toString(16).toUpperCase().padStart(2, '0');
    super({ code, message: `${command}: ${words} (status ${hex})` });
  }
}

/** An answer whose MAC or checksum does not hold: it did not come from the card as it left it. */
export const forged = (command: string): never => {
  throw new RawBitsError({
    code: 'answer-changed',
    message: `${command}: the answer is not what the card sent.`,
    hint: 'Take the card off the pad and begin again; if it goes on, something stands between pad and card.',
  });
};
