/** What is typed into the filters of the cards, as the server is asked, on the site's days. */
import { expect, it } from 'vitest';
import { choiceOf, chosen, EVERYTHING, filterOf, narrows, soughtFrom } from './sought.ts';

const ZONE = 'Europe/Oslo';

it('a day is the site’s, from its beginning; a half typed one is none', () => {
  const sought = { ...EVERYTHING, seen: 'not since' as const, day: '2026-06-30' };
  expect(filterOf(sought, ZONE)).toMatchObject({ notSeenSince: '2026-06-29T22:00:00.000Z', seenSince: undefined });
  expect(filterOf({ ...sought, day: '0002-06-30' }, ZONE).notSeenSince).toBeUndefined();
  expect(narrows(filterOf({ ...EVERYTHING, search: '  ', facility: 'x' }, ZONE))).toBe(false);
});

it('what was kept comes back as it was typed', () => {
  const typed = {
    ...EVERYTHING,
    ...{ search: '118', state: 'active' as const, formatId: '26-8-16', facility: '58', group: 'g' },
    ...{ seen: 'since' as const, day: '2026-10-25' },
  };
  expect(soughtFrom(filterOf(typed, ZONE), ZONE)).toEqual(typed);
  const report = chosen(typed, choiceOf({ ...EVERYTHING, report: 'never used' }));
  expect([report.report, report.state, filterOf(report, ZONE).report]).toEqual(['never used', '', 'never used']);
});
