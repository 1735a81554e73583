/** One line of input into one line of output; whatever goes wrong becomes an `error` in its place. */
import { type Failure, failureOf, RawBitsError } from '@rawbits/core/failure';
import { z } from 'zod';
import type { Command } from './commands.ts';

/** The answer to one line, as JSON without a line break. */
export async function answer(
  command: Command,
  line: string,
  row: number,
): Promise<{ text: string; isFailure: boolean }> {
  try {
    return { text: JSON.stringify(await command(parse(line))), isFailure: false };
  } catch (error) {
    const { code, message, where, hint } = failureIn(error);
    const told = { error: { code, message, where: { row, ...where }, ...(hint && { hint }) } };
    return { text: JSON.stringify(told), isFailure: true };
  }
}

function parse(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch (error) {
    throw new RawBitsError({ code: 'json', message: `The line is not JSON: ${(error as Error).message}.` });
  }
}

function failureIn(error: unknown): Failure {
  if (!(error instanceof z.ZodError)) return failureOf(error);
  const issue = error.issues[0]!;
  const field = issue.path.join('.');
  return {
    code: 'input',
    message: field ? `${field}: ${issue.message}.` : `${issue.message}.`,
    ...(field && { where: { field } }),
  };
}
