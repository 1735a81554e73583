/** A draft's line as the editor sees it: the layout drawn, what is wrong with it, what a colleague would say. */
import { type Advice, adviceOn } from '@rawbits/core/codec';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { type Format, type Layout, type Problem, parseLayoutLine, problemsOf } from '@rawbits/core/format';

export interface Checked {
  /** What the line says, where it can be read at all. */
  layout?: Layout;
  /** Why it cannot be read. */
  failure?: Failure;
  problems: Problem[];
  /** Nothing but notes among the problems: it can be decoded, encoded and saved. */
  sound: boolean;
}

export function checkLine(line: string): Checked {
  try {
    const layout = parseLayoutLine(line);
    const problems = problemsOf(layout);
    return { layout, problems, sound: problems.every((p) => p.severity === 'note') };
  } catch (error) {
    return { failure: failureOf(error), problems: [], sound: false };
  }
}

export function adviceFor(
  layout: Layout,
  library: readonly Format[],
  self: string,
  facilities: readonly string[],
): Advice[] {
  return adviceOn(layout, library, { self, facilities: facilities.map(BigInt) });
}
