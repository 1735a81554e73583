/** What saving a form undoes of somebody who saved meanwhile, in words. */
import type { FieldValues } from 'react-hook-form';
import type { FormDraft } from './useKeptForm.ts';
import { useWhoSaved } from './useWhoSaved.ts';

export function useUndoes<T extends FieldValues>(
  { undoes }: FormDraft<T>,
  words: (field: keyof T & string, value: unknown) => [name: string, value: string],
  subject: string | undefined,
): { who: string; what: string[] } {
  const who = useWhoSaved(undoes.length > 0 ? subject : undefined);
  const what = undoes.map(({ field, theirs }) => words(field as keyof T & string, theirs).join(': '));
  return { who, what };
}
