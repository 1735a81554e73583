/**
 * Secret: a value that is not printed by accident. A log, an error, the trail, JSON and a text made of it show that there
 * is one and nothing of it; only `reveal` gives it, so every place that uses one can be found by that word.
 */

const SHOWN = '[secret]';

export class Secret<T = string> {
  readonly #value: T;

  constructor(value: T) {
    this.#value = value;
  }

  /** The value itself, for the one place that needs it. */
  reveal(): T {
    return this.#value;
  }

  toString(): string {
    return SHOWN;
  }

  toJSON(): string {
    return SHOWN;
  }

  /** How Node's `util.inspect`, and so `console`, shows it. */
  [Symbol.for('nodejs.util.inspect.custom')](): string {
    return SHOWN;
  }
}
