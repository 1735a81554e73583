/** The name of a facility code beside it, where it has one. */
import { useCodes } from './codeNames.ts';

export function CodeName({ code, format }: { code: string | null | undefined; format: string | undefined }) {
  const named = useCodes()(code, format);
  return named ? <span className="font-sans text-[0.85rem] text-ink-2">{named.name}</span> : null;
}
