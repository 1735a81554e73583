/** Whether a facility code can be one. */
import { greatestOf } from '@rawbits/core/codec';
import type { Format } from '@rawbits/core/format';
import { invalid } from '../../platform/problem/problem.ts';

/** Whether a format, or every format of the site that carries one, can hold a facility code. */
export function checkCode(adopted: ReadonlyMap<string, Format>, formatId: string | null, code: string): void {
  if (formatId !== null && !adopted.has(formatId))
    throw invalid('formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
  const formats = formatId === null ? [...adopted.values()] : [adopted.get(formatId)!];
  for (const format of formats) {
    const span = format.spans.find((s) => s.role === 'facility');
    if (!span && formatId !== null) throw invalid('formatId', 'This format carries no facility code.');
    if (span && formatId !== null && BigInt(code) > greatestOf(span))
      throw invalid('code', `${code} is above ${greatestOf(span)}, the greatest in this format.`);
  }
}
