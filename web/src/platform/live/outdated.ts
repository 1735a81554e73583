/** What an entry of the live feed makes stale: named things where the entry names them, else all of their kind. */
import type { FeedEntry, Which } from '@rawbits/api';
import type { api } from '../api/api.ts';
import { tagsOfCards } from '../endpoints/cards.ts';

export type Tag = Exclude<Parameters<typeof api.util.invalidateTags>[0][number], null | undefined>;

export interface Outdated {
  tags: Tag[];
  /** Cards that are fetched one by one into long lists. */
  cards: string[];
  /** Controllers that are fetched one by one into their list. */
  controllers: string[];
}

/** More than so many things of one kind are fetched again with all of their kind. */
export const ONE_BY_ONE = 12;

const WHOLE: Record<FeedEntry['kind'], Tag[]> = {
  read: [{ type: 'Reads', id: 'found' }],
  event: ['Events'],
  cards: ['Cards', 'Controllers'],
  cardholders: ['Cardholders', 'Access'],
  formats: ['Formats'],
  controllers: ['Controllers', 'Rig', 'Hosts', 'Pad'],
  load: [],
  operators: ['Operators'],
  trail: ['Trail'],
  cases: ['Cases'],
  work: ['Work'],
  keys: ['Keys'],
  plans: ['Plans'],
  runs: ['Runs', 'Pad'],
  access: ['Access'],
  arming: ['Arming'],
  filters: ['Filters'],
};

/** All that can be stale where entries were missed. */
export const EVERYTHING: Tag[] = ['Reads', ...Object.values(WHOLE).flat()];

export function outdatedBy(entries: readonly FeedEntry[]): Outdated {
  const named = { cards: new Set<string>(), controllers: new Set<string>() };
  const tags = new Map<string, Tag>();
  // A box is counted with the cards, though none of them changed.
  let isCounted = false;
  const add = (more: readonly Tag[]) => {
    for (const tag of more) tags.set(JSON.stringify(tag), tag);
  };
  for (const { kind, data } of entries) {
    const ids = (data as Which | null)?.ids;
    if (ids && kind === 'cards') isCounted = true;
    if (ids && (kind === 'cards' || kind === 'controllers')) for (const id of ids) named[kind].add(id);
    else add(WHOLE[kind]);
  }
  if (named.cards.size > ONE_BY_ONE) add(WHOLE.cards);
  else if (named.cards.size > 0) add([...tagsOfCards([...named.cards]), 'Cardholders', 'Controllers']);
  else if (isCounted) add(tagsOfCards([]));
  if (named.controllers.size > ONE_BY_ONE) add(WHOLE.controllers);
  const whole = (tag: Tag) => tags.has(JSON.stringify(tag));
  return {
    tags: [...tags.values()],
    cards: whole('Cards') ? [] : [...named.cards],
    controllers: whole('Controllers') ? [] : [...named.controllers],
  };
}
