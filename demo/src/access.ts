/** Who may pass the gear store of Skerry Point, and when; and how its cardholders are kept. All of it invented. */

/** The door that asks for access groups, with its readers by their devices. */
export const GEAR_STORE = { name: 'Gear store', in: 'gear-store-outside', out: 'gear-store-inside' } as const;

export const HOLIDAYS = [
  { name: 'Midwinter day', date: '2025-12-25', yearly: true },
  { name: 'Lantern night', date: '2025-12-31', yearly: true },
  { name: 'Harbour day, the station is open to visitors', date: '2027-06-05', yearly: false },
];

const EVERY_DAY = [1, 2, 3, 4, 5, 6, 7];
export const SCHEDULES = [
  {
    name: 'Working days',
    periods: [{ days: [1, 2, 3, 4, 5], from: '07:00', to: '19:00' }],
    onHolidays: [],
  },
  {
    name: 'Tank watch',
    periods: [{ days: EVERY_DAY, from: '21:00', to: '06:30' }],
    onHolidays: 'as other days' as const,
  },
];

/** Which groups may pass the gear store by which schedule, in and out, and who is in them. */
export const GROUPS = [
  { name: 'Dive team', by: [{ schedule: 'Always', ways: ['in', 'out'] }], people: ['Isak Fjelde', 'Hedda Lyng'] },
  {
    name: 'Wet labs',
    by: [
      { schedule: 'Working days', ways: ['in'] },
      { schedule: 'Always', ways: ['out'] },
    ],
    people: ['Ragna Holm', 'Mikkel Aune'],
  },
] as const;

/** How long a card of a visitor or of a contractor lives. */
export const RULES = {
  pinDigits: 5,
  pinsDiffer: true,
  brings: [
    { organisation: '', kind: 'visitor', groups: [], days: 21 },
    { organisation: '', kind: 'contractor', groups: [], days: 90 },
  ],
  revision: 0,
};

export const ASSERTION = {
  name: 'The gear store at night is the dive team’s',
  but: ['Dive team'],
  way: 'in' as const,
  during: { periods: [{ days: EVERY_DAY, from: '22:00', to: '06:00' }], onHolidays: 'as other days' as const },
};
