/** Assertions over who may pass, against looking at every minute of many days. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOLIDAYS, holdsByWords, schedule } from '../../../testing/schedules.ts';
import { dateOf, dayKinds, dayOf, holdsMinute, minutesOfDay, type Period, type Schedule } from '../schedule/index.ts';
import { type AccessAssertion, type AccessGroup, check, type Way } from './index.ts';

describe('assertions over who may pass', () => {
  const from = dayOf('2026-11-30');
  const always: Period = { from: '00:00', to: '24:00' };
  const of = (id: string, periods: Schedule['periods'], onHolidays: Schedule['onHolidays'] = []): Schedule => ({
    id,
    name: id,
    periods,
    onHolidays,
  });
  const group = (id: string, door: string, schedule: string, ways: Way[] = ['in']): AccessGroup => ({
    id,
    name: id,
    rights: [{ doors: [{ door, ways }], schedule }],
  });
  const night = (but: string[]): AccessAssertion => ({
    name: 'The gear store at night',
    but,
    doors: ['gear store'],
    way: 'in',
    during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '06:00' }], onHolidays: 'as other days' },
  });
  const days = of('days', [{ days: [1, 2, 3, 4, 5], from: '06:00', to: '22:00' }]);
  const people = [
    { id: 'Ragna', groups: ['labs'] },
    { id: 'Isak', groups: ['divers', 'labs'] },
  ];

  it('hold where nobody else is let in, by the minute', () => {
    const rights = {
      groups: [group('labs', 'gear store', 'days'), group('divers', 'gear store', 'all')],
      schedules: [days, of('all', [{ days: [1, 2, 3, 4, 5, 6, 7], ...always }])],
      holidays: HOLIDAYS,
    };
    expect(check(night(['divers']), rights, people, from)).toEqual([]);
    // One minute past ten in the evening, on Mondays.
    const late = of('days', [{ days: [1], from: '06:00', to: '22:01' }]);
    expect(
      check(night(['divers']), { ...rights, schedules: [late, ...rights.schedules.slice(1)] }, people, from),
    ).toEqual([
      { person: 'Ragna', group: 'labs', door: 'gear store', schedule: 'days', date: '2026-11-30', time: '22:00' },
    ]);
  });

  it('are broken by what holds on a holiday alone, on the first that comes; the way out is another matter', () => {
    const holiday = of('days', days.periods, [{ from: '23:00', to: '01:00' }]);
    const rights = {
      groups: [group('labs', 'gear store', 'days')],
      schedules: [holiday],
      holidays: [{ name: 'Spring', date: '2029-05-01', yearly: true }],
    };
    expect(check(night(['divers']), rights, people, from)).toMatchObject([{ date: '2029-05-01', time: '23:00' }]);
    expect(
      check(night(['divers']), { ...rights, groups: [group('labs', 'gear store', 'days', ['out'])] }, people, from),
    ).toEqual([]);
  });

  it('are broken by anybody where a door is not by groups', () => {
    const rights = { groups: [], schedules: [], holidays: [], open: new Set(['gear store']) };
    expect(check(night(['divers']), rights, people, from)).toEqual([
      { person: 'Ragna', group: null, door: 'gear store', schedule: null, date: '2026-11-30', time: '00:00' },
    ]);
  });

  it('agree with looking at every minute of a year with holidays, on random sites', () => {
    const doors = ['gear store', 'cold store'];
    const site = fc.record({
      schedules: fc.tuple(schedule, schedule),
      groups: fc.array(fc.tuple(fc.constantFrom(...doors), fc.constantFrom(0, 1), fc.constantFrom<Way>('in', 'out')), {
        minLength: 1,
        maxLength: 3,
      }),
      but: fc.uniqueArray(fc.constantFrom('g0', 'g1', 'g2'), { maxLength: 2 }),
      members: fc.array(fc.uniqueArray(fc.constantFrom('g0', 'g1', 'g2'), { maxLength: 3 }), {
        minLength: 1,
        maxLength: 3,
      }),
      window: schedule,
    });
    const kindOf = dayKinds(HOLIDAYS);
    let found = 0;
    fc.assert(
      fc.property(site, ({ schedules: [a, b], groups, but, members, window }) => {
        const schedules = [
          { ...a, id: 's0' },
          { ...b, id: 's1' },
        ] as Schedule[];
        const made = groups.map(([door, s, way], i) => group(`g${i}`, door, `s${s}`, [way]));
        const assertion: AccessAssertion = {
          name: 'A',
          but,
          doors: ['gear store'],
          way: 'in',
          during: window as Schedule,
        };
        const persons = members.map((own, i) => ({ id: `p${i}`, groups: own as string[] }));
        const broken = check(assertion, { groups: made, schedules, holidays: HOLIDAYS }, persons, from);
        /** The first minute at which somebody of the group passes where nobody but others may. */
        const firstMinute = (one: Schedule): string | undefined => {
          for (let day = from; day < from + 400; day++) {
            for (let minute = 0; minute < 1440; minute++) {
              const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
              if (
                holdsMinute(minutesOfDay(window as Schedule, kindOf, day), minute) &&
                holdsByWords(one, dateOf(day), at)
              )
                return `${dateOf(day)} ${at}`;
              // A day that cannot be one is passed over at once.
              if (minutesOfDay(window as Schedule, kindOf, day).length === 0) break;
            }
          }
          return undefined;
        };
        const wanted = persons.flatMap(({ id, groups: own }) =>
          own.some((g) => (but as string[]).includes(g))
            ? []
            : made.flatMap((g) => {
                const right = g.rights[0]!;
                if (!own.includes(g.id) || right.doors[0]!.door !== 'gear store' || right.doors[0]!.ways[0] !== 'in')
                  return [];
                const at = firstMinute(schedules.find((s) => s.id === right.schedule)!);
                return at ? [`${id} ${g.id} ${at}`] : [];
              }),
        );
        expect(broken.map(({ person, group: g, date, time: at }) => `${person} ${g} ${date} ${at}`).sort()).toEqual(
          wanted.sort(),
        );
        found += wanted.length;
      }),
      { numRuns: 40, seed: 5 },
    );
    expect(found).toBeGreaterThan(5);
  });
});
