/** What cards are looked for by, as it is typed; as the server is asked; and back. */
import { type CardFilter, REPORT_NAMES } from '@rawbits/api';
import type { CardState } from '@rawbits/core/access';
import { beginningOf, dayOf } from '../../platform/words/siteDays.ts';

export interface Sought {
  search: string;
  state: CardState | '';
  report: NonNullable<CardFilter['report']> | '';
  order: 'newest' | 'number';
  formatId: string;
  facility: string;
  group: string;
  /** Whether they were at a door since a day, or were not. */
  seen: '' | 'since' | 'not since';
  day: string;
}

export const EVERYTHING: Sought = {
  ...{ search: '', state: '', report: '', order: 'newest', formatId: '', facility: '', group: '', seen: '', day: '' },
};

const DAY = /^[1-9]\d{3}-\d{2}-\d{2}$/;

export function filterOf(sought: Sought, zone: string, box?: string): CardFilter {
  const { search, state, report, formatId, facility, group, seen, day } = sought;
  const since = DAY.test(day) ? (beginningOf(day, zone) ?? undefined) : undefined;
  return {
    search: search.trim() || undefined,
    state: state || undefined,
    report: report || undefined,
    box,
    formatId: formatId || undefined,
    facility: /^\d{1,40}$/.test(facility.trim()) ? facility.trim() : undefined,
    group: group || undefined,
    seenSince: seen === 'since' ? since : undefined,
    notSeenSince: seen === 'not since' ? since : undefined,
  };
}

export function soughtFrom(filter: CardFilter, zone: string): Sought {
  const { search = '', state = '', report = '', formatId = '', facility = '', group = '' } = filter;
  const since = filter.seenSince ?? filter.notSeenSince ?? null;
  return {
    ...EVERYTHING,
    ...{ search, state, report, formatId, facility, group },
    seen: filter.seenSince ? 'since' : filter.notSeenSince ? 'not since' : '',
    day: dayOf(since, zone),
  };
}

/** Whether a filter narrows the cards at all. */
export const narrows = (filter: CardFilter): boolean => Object.values(filter).some((value) => value !== undefined);

/** How a report is told from a state among the choices. */
const REPORT = 'report: ';
export const choiceOf = ({ state, report }: Sought): string => (report ? `${REPORT}${report}` : state);
export const reportChoices = REPORT_NAMES.map((name) => ({ name, value: `${REPORT}${name}` }));
export const chosen = (sought: Sought, choice: string): Sought =>
  choice.startsWith(REPORT)
    ? { ...sought, state: '', report: choice.slice(REPORT.length) as Sought['report'] }
    : { ...sought, state: choice as Sought['state'], report: '' };
