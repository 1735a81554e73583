/** Several lines, or rows of a sheet, as several reads: each by itself, never joined. */
import { type Failure, fail, failureOf } from '../failure/index.ts';
import { intake } from './intake.ts';
import type { IntakeOptions, Reading } from './reading.ts';
import { recordedReads } from './recorded.ts';

/** More lines are refused unread: what people look through is less. */
export const MOST_LINES = 2000;

export interface TakenLine {
  /** 1-based, blank lines counted. */
  row: number;
  text: string;
  /** Of a stream of frames: which of its reads, from 0. */
  part?: number;
  /** Its readings, the one taken first; of a stream of frames each read is an entry of its own. */
  readings?: Reading[];
  passedOver?: string;
  failure?: Failure;
}

/** What each line of a paste is as a read, or why it is none; of a recorded line each read that it holds. Throws `intake-many` where there are more than can be looked through. */
export function readsIn(text: string, options: IntakeOptions = {}): TakenLine[] {
  const recorded = recordedReads(text);
  if (recorded)
    return [...recorded.readings, ...(recorded.others ?? [])].map((reading, i) => ({
      row: 1,
      text: `read ${i + 1} of the recording`,
      ...(i > 0 && { part: i }),
      readings: [reading],
    }));
  const lines = text.split(/\r\n|[\r\n\u2028\u2029]/);
  const count = lines.filter((line) => line.trim() !== '').length;
  if (count > MOST_LINES)
    fail(
      'intake-many',
      `${count.toLocaleString('en')} lines are too many at once, at most ${MOST_LINES.toLocaleString('en')}.`,
      { row: MOST_LINES + 1 },
      'Paste fewer lines, or put them into a case on Identify.',
    );
  return lines.flatMap((line, i): TakenLine[] => {
    if (line.trim() === '') return [];
    const row = i + 1;
    try {
      const { readings, passedOver, others = [] } = intake(line, options);
      const told = { row, text: line, ...(passedOver && { passedOver }) };
      return [{ ...told, readings }, ...others.map((reading, k) => ({ ...told, part: k + 1, readings: [reading] }))];
    } catch (error) {
      const failure = failureOf(error);
      return [{ row, text: line, failure: { ...failure, where: { ...failure.where, row } } }];
    }
  });
}
