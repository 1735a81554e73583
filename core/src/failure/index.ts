/**
 * Failure: the one shape of every error in Raw Bits. A failure is a value: what kind it is, what is wrong in words,
 * where it is, and what to do about it. `RawBitsError` carries one where a function has to throw.
 */

export interface Where {
  /** The field or part at fault, for instance `values.number`. */
  field?: string;
  /** 1-based column in a text. */
  column?: number;
  /** 1-based row of a file or batch. */
  row?: number;
  /** 1-based bit positions concerned. */
  positions?: number[];
}

export interface Failure {
  /** A stable word for programs, for instance `hex-digit`. */
  code: string;
  /** One sentence for a person: what is wrong. */
  message: string;
  where?: Where;
  /** One sentence for a person: what to do. */
  hint?: string;
}

export class RawBitsError extends Error implements Failure {
  readonly code: string;
  readonly where?: Where;
  readonly hint?: string;

  constructor(failure: Failure) {
    super(failure.message);
    this.name = 'RawBitsError';
    this.code = failure.code;
    this.where = failure.where;
    this.hint = failure.hint;
  }

  toFailure(): Failure {
    return {
      code: this.code,
      message: this.message,
      ...(this.where && { where: this.where }),
      ...(this.hint && { hint: this.hint }),
    };
  }
}

/** Throws a `RawBitsError`; never returns. */
export function fail(code: string, message: string, where?: Where, hint?: string): never {
  throw new RawBitsError({ code, message, where, hint });
}

/** The failure inside anything that was thrown; an unknown error keeps its own message. */
export function failureOf(thrown: unknown): Failure {
  if (thrown instanceof RawBitsError) return thrown.toFailure();
  return { code: 'unexpected', message: thrown instanceof Error ? thrown.message : String(thrown) };
}
