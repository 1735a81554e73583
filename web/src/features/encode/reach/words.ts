/** Steps of a reach as people say them. */
import type { Step } from '@rawbits/core/plan';

const keyWords = (key: unknown): string =>
  key === 'factory'
    ? 'the factory’s key'
    : key === 'theirs'
      ? 'the key that they put there'
      : `"${(key as { plan?: string })?.plan ?? ''}"`;

/** One step: `authenticate by "dive office" as key 0`. */
export function stepWords(step: { do: string }): string {
  const one = step as Step & { sector?: number; block?: number; key?: unknown; with?: { plan: string } | string };
  switch (one.do as string) {
    case 'select':
      return 'application' in one && one.application !== null ? `select ${one.application}` : 'select the card itself';
    case 'authenticate':
      return 'slot' in one
        ? `authenticate by ${keyWords(one.key)} as key ${one.slot}`
        : `authenticate sector ${one.sector} by ${typeof one.with === 'string' ? 'the factory’s key' : `"${one.with?.plan}"`} as key ${String(one.key)}`;
    case 'change key':
      return `change key ${(one as { slot: number }).slot}${(one as { isCard?: boolean }).isCard ? ' of the card' : ''}`;
    case 'take a blank':
      return 'take a blank of their own, and there:';
    case 'put a key in':
      return `put in "${String(one.key)}" as key ${(one as unknown as { slot: number | string }).slot}${
        one.sector === undefined ? ', made for the blank' : ` of sector ${one.sector}`
      }`;
    case 'open the rights':
      return `open the rights of file ${(one as { file: number }).file} to everybody`;
    default:
      if ('file' in one) return `${one.do} file ${one.file}`.replace('file file', 'file');
      if (one.block !== undefined) return `${one.do} block ${one.block}`;
      if (one.sector !== undefined) return `${one.do} of sector ${one.sector}`;
      return 'application' in one ? `${one.do} ${String(one.application)}` : one.do;
  }
}

/** Abilities by what they are about: the card, then each application. */
export function grouped<T extends { can: string }>(abilities: readonly T[], rest: string): [string, T[]][] {
  const groups = new Map<string, T[]>();
  for (const ability of abilities) {
    const about =
      /(?:of |delete |replace )([0-9A-F]{6})$/.exec(ability.can)?.[1] ??
      /(sector \d+|block \d+)/.exec(ability.can)?.[1] ??
      rest;
    groups.set(about, [...(groups.get(about) ?? []), ability]);
  }
  return [...groups];
}
