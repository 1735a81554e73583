/**
 * Two operators at one form: while one types, the other saves something else of it and something of the same field. What only one
 * changed is merged, also where a row was taken out; what both changed is asked before anything is saved. A kind of form that
 * keeps drafts and is in neither list here fails.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

/** Forms that make something new: nobody else has saved what they are about. */
const NEW_ONLY = [
  'formats made of cases',
  'cards that carry keys',
  'asked for a key',
  'versions of keys',
  'keys',
  'holdings of keys',
  'key sets',
  'system identifiers',
  'cards being issued',
  'boxes being entered',
];

interface Kind {
  /** Opens the form in the browser. */
  open(): Promise<void>;
  /** The field that both change. */
  field: string;
  /** What stands in it before, where it was made for this. */
  from?: string;
  /** Saved by the other while it is typed: another value of the field, and something else of the thing. */
  theirs(): Promise<unknown>;
  /** Shows in the form once the other change has come. */
  sees(): Promise<unknown>;
  /** What is saved in the end: the typed value, and what else the other changed. */
  saved(): Promise<unknown>;
  expected: unknown;
  /** How it is saved, where that is not the button Save of the form. */
  save?: string;
}

describe('two operators at one form', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  let at: string;
  let colleague: string;
  const MINE = 'Typed here';
  const THEIRS = 'Saved by Tormod';

  const api = async <T = any>(method: string, path: string, body?: unknown): Promise<T> => {
    const response = await fetch(`${application.url}/api/sites/${site}${path}`, {
      method,
      headers: { cookie: colleague, 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const answer = await response.json();
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${JSON.stringify(answer)}`);
    return answer as T;
  };
  const access = () => api('GET', '/access');
  /** Saves a change of rights as it was reviewed. */
  const change = async (body: object): Promise<string> => {
    const { seen } = await api('POST', '/access/reviews', { change: body });
    return (await api('POST', '/access/changes', { change: body, seen, breaking: true })).id;
  };
  const value = (css: string) => browser.on(css, (e) => e.getAttribute('value'));
  const type = async (css: string, text: string) => {
    await browser.on(css, (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), text));
  };
  const named = <T extends { name: string }>(all: T[], ...names: string[]): T =>
    all.find(({ name }) => names.includes(name))!;

  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    const { login, password } = OPERATORS[0];
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
    at = `${application.url}/${site}`;
    const signedIn = await fetch(`${application.url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ login: OPERATORS[1].login, password: OPERATORS[1].password }),
    });
    colleague = signedIn.headers.get('set-cookie')!.split(';')[0]!;
  });
  afterAll(async () => {
    await application?.close();
  });

  const KINDS: Record<string, () => Promise<Kind>> = {
    cards: async () => {
      const [card] = (await api('GET', '/cards?limit=1')).cards;
      const now = () => api('GET', `/cards/${card.id}`);
      return {
        open: () => browser.move(`${at}/stock/${card.id}`),
        field: '[aria-label="One card"] [name=notes]',
        theirs: async () =>
          api('PATCH', `/cards/${card.id}`, { revision: (await now()).revision, notes: THEIRS, printed: 'S-7' }),
        sees: () => browser.until(async () => (await value('[aria-label="One card"] [name=printed]')) === 'S-7'),
        saved: async () => [(await now()).notes, (await now()).printed],
        expected: [MINE, 'S-7'],
      };
    },
    'corrections of cards': async () => {
      const { cards } = await api('GET', '/cards?search=58/10233');
      const path = `/cards/${cards[0].id}`;
      const now = () => api('GET', path);
      return {
        open: async () => {
          await browser.move(`${at}/stock/${cards[0].id}`);
          await browser.click('Correct');
        },
        field: 'form [name=number]',
        theirs: async () => api('PATCH', path, { revision: (await now()).revision, number: '45001', notes: THEIRS }),
        sees: async () => undefined,
        saved: async () => [(await now()).number, (await now()).notes],
        expected: ['45002', THEIRS],
        save: 'Correct it',
      };
    },
    cardholders: async () => {
      const [person] = (await api('GET', '/cardholders?limit=1')).cardholders;
      const now = () => api('GET', `/cardholders/${person.id}`);
      return {
        open: () => browser.move(`${at}/stock/people/${person.id}`),
        field: '[aria-label="One cardholder"] [name=contact]',
        theirs: async () => {
          const { revision } = await now();
          return api('PATCH', `/cardholders/${person.id}`, { revision, contact: THEIRS, notes: 'Has a boat' });
        },
        sees: () =>
          browser.until(async () => (await value('[aria-label="One cardholder"] [name=notes]')) === 'Has a boat'),
        saved: async () => [(await now()).contact, (await now()).notes],
        expected: [MINE, 'Has a boat'],
      };
    },
    'cardholder rules': async () => {
      const rules = () => api('GET', '/cardholder-rules');
      const line = (kind: string) => ({ organisation: '', kind, groups: [], days: 30 });
      const put = async (more: object) => api('PUT', '/cardholder-rules', { ...(await rules()), ...more });
      await put({ brings: [line('diver'), line('cook')] });
      return {
        open: () => browser.move(`${at}/stock/people/rules`),
        field: '[name=pinDigits]',
        theirs: () => put({ pinDigits: 6, brings: [line('cook')] }),
        sees: () => browser.gone('[name="brings.1.kind"]'),
        saved: async () => [
          (await rules()).pinDigits,
          (await rules()).brings.map(({ kind }: { kind: string }) => kind),
        ],
        expected: [8, ['cook']],
      };
    },
    schedules: async () => {
      const period = (from: string, to: string) => ({ days: [1, 2, 3], from, to });
      const made = {
        kind: 'schedule',
        name: 'Two watches',
        periods: [period('06:00', '12:00'), period('18:00', '23:00')],
        onHolidays: [],
      };
      const id = await change({ ...made, id: null });
      const now = async () => named((await access()).schedules as any[], MINE, THEIRS, 'Two watches');
      return {
        open: () => browser.move(`${at}/doors/schedules/${id}`),
        field: '[aria-label="One schedule"] [name=name]',
        from: 'Two watches',
        theirs: () => change({ ...made, id, name: THEIRS, periods: [period('18:00', '23:00')] }),
        sees: () => browser.gone('[name="periods.1.from"]'),
        saved: async () => [(await now()).name, (await now()).periods.map(({ from }: { from: string }) => from)],
        expected: [MINE, ['18:00']],
      };
    },
    'access groups': async () => {
      const { doors } = await access();
      const rights = (some: any[]) => [
        { schedule: 'always', doors: some.map(({ id, readers }) => ({ door: id, ways: [readers[0].way] })) },
      ];
      const made = { kind: 'group', name: 'Night watch', rights: rights(doors.slice(0, 2)) };
      const id = await change({ ...made, id: null });
      const now = async () => named((await access()).groups as any[], MINE, THEIRS, 'Night watch');
      const box = `[aria-label="One access group"] [aria-label="${doors[0].name}, ${doors[0].readers[0].way}"]`;
      return {
        open: () => browser.move(`${at}/doors/groups/${id}`),
        field: '[aria-label="One access group"] [name=name]',
        from: 'Night watch',
        theirs: () => change({ ...made, id, name: THEIRS, rights: rights(doors.slice(1, 2)) }),
        sees: () => browser.until(() => browser.on(box, async (e) => !(await e.isSelected()))),
        saved: async () => [
          (await now()).name,
          (await now()).rights[0].doors.map(({ door }: { door: string }) => door),
        ],
        expected: [MINE, [doors[1].id]],
      };
    },
    doors: async () => {
      const door = (await access()).doors.find(({ byGroups }: { byGroups: boolean }) => !byGroups);
      const readers = door.readers.map(({ id, way }: { id: string; way: string }) => ({ id, way }));
      const now = async () => (await access()).doors.find(({ id }: { id: string }) => id === door.id);
      const rule = '[aria-label="How the door decides"] [name=rule][value=groups]';
      return {
        open: () => browser.move(`${at}/doors/passing/${door.id}`),
        field: '[aria-label="How the door decides"] [name=name]',
        theirs: () => change({ kind: 'door', id: door.id, name: THEIRS, byGroups: true, readers }),
        sees: () => browser.until(() => browser.on(rule, (e) => e.isSelected())),
        saved: async () => [(await now()).name, (await now()).byGroups],
        expected: [MINE, true],
      };
    },
    holidays: async () => {
      const day = (name: string, date: string) => ({ name, date, yearly: false });
      const [second, third] = [day('Second', '2031-02-02'), day('Third', '2031-03-03')];
      const put = (holidays: object[]) => change({ kind: 'holidays', holidays });
      const now = async () => (await access()).calendar.holidays.map(({ name }: { name: string }) => name).sort();
      await put([day('First', '2031-01-01'), second]);
      return {
        open: () => browser.move(`${at}/doors/schedules/holidays`),
        field: '[name="holidays.0.name"]',
        from: 'First',
        theirs: () => put([day(THEIRS, '2031-01-01'), third]),
        sees: () => browser.until(async () => (await value('[name="holidays.1.name"]')) === 'Third'),
        saved: now,
        expected: ['Third', MINE],
      };
    },
    assertions: async () => {
      const { doors } = await access();
      const of = async () => named((await access()).assertions as any[], MINE, THEIRS, 'Nobody at night');
      const put = (more: object) =>
        api('POST', '/access/assertions', {
          ...{ name: 'Nobody at night', but: [], doors: doors.map(({ id }: { id: string }) => id), way: 'in' },
          during: { periods: [{ days: [1], from: '02:00', to: '03:00' }], onHolidays: [] },
          ...more,
        });
      const { id } = await put({ id: null });
      const box = `[aria-label="An assertion"] [name=doors][value="${doors[0].id}"]`;
      return {
        open: async () => {
          await browser.move(`${at}/doors/passing/assertions`);
          await browser.onPath('//article[@aria-label="Nobody at night"]//button[contains(., "change")]', (e) =>
            e.click(),
          );
        },
        field: '[aria-label="An assertion"] [name=name]',
        from: 'Nobody at night',
        theirs: () => put({ id, name: THEIRS, doors: doors.slice(1).map((door: { id: string }) => door.id) }),
        sees: () => browser.until(() => browser.on(box, async (e) => !(await e.isSelected()))),
        saved: async () => [(await of()).name, (await of()).doors.includes(doors[0].id)],
        expected: [MINE, false],
      };
    },
    'facility codes': async () => {
      const code = await api('POST', '/facility-codes', { code: '199', name: 'Spare' });
      const now = async () => (await api('GET', '/facility-codes')).find(({ id }: { id: string }) => id === code.id);
      return {
        open: async () => {
          await browser.move(`${at}/formats?part=codes`);
          await browser.onPath('//tr[contains(., "Spare")]//button[.="describe"]', (e) => e.click());
        },
        field: '[aria-label="Facility code"] [name=name]',
        from: 'Spare',
        theirs: async () => {
          const { notes: _, orderedBy, orderedFrom, reserved, revision } = await now();
          const body = { orderedBy, orderedFrom, reserved, revision, name: THEIRS, notes: 'Grey cards' };
          return api('PATCH', `/facility-codes/${code.id}`, body);
        },
        sees: () =>
          browser.until(async () => (await value('[aria-label="Facility code"] [name=notes]')) === 'Grey cards'),
        saved: async () => [(await now()).name, (await now()).notes],
        expected: [MINE, 'Grey cards'],
      };
    },
    boxes: async () => {
      const [box] = (await api('GET', '/boxes')).boxes;
      const now = () => api('GET', `/boxes/${box.id}`);
      return {
        open: () => browser.move(`${at}/stock/boxes/${box.id}`),
        field: '[aria-label="One box"] [name=name]',
        theirs: async () =>
          api('PATCH', `/boxes/${box.id}`, { revision: (await now()).revision, name: THEIRS, notes: 'Half used' }),
        sees: () => browser.until(async () => (await value('[aria-label="One box"] [name=notes]')) === 'Half used'),
        saved: async () => [(await now()).name, (await now()).notes],
        expected: [MINE, 'Half used'],
      };
    },
    'reader plans': async () => {
      const readers = await api('GET', '/readers');
      const reader = readers.find(({ device }: { device: string }) => device === 'boat-shed-outside') ?? readers[0];
      const fields = [{ name: 'low', at: 1, length: 4, content: { is: 'number', of: 'number' } }];
      const sends = { is: 'identification', rate: 64, fields };
      const definition = { schema: 'rawbits/plan@1', kind: 'tag', name: 'Dock tag', sends };
      const plan = await api('POST', '/plans', { plan: definition });
      const place = { in: 'tag', field: 'low' };
      const set = (bits: number) => api('PUT', `/readers/${reader.id}/plan`, { planId: plan.id, at: place, bits });
      const now = async () =>
        (await api('GET', '/reader-plans')).find(({ readerId }: { readerId: string }) => readerId === reader.id);
      await set(26);
      return {
        open: async () => {
          await browser.move(`${at}/doors`);
          await browser.onPath(`//*[@data-reader-line="${reader.device}"]//button[.="set it up anew"]`, (e) =>
            e.click(),
          );
        },
        field: `[aria-label="Set ${reader.name} up"] [name=bits]`,
        from: '26',
        theirs: () => set(32),
        sees: async () => undefined,
        saved: async () => (await now()).settings.bits,
        expected: 30,
        save: 'Set it up',
      };
    },
  };
  const TYPED: Record<string, string> = {
    'cardholder rules': '8',
    'corrections of cards': '45002',
    'reader plans': '30',
  };

  it.each(Object.keys(KINDS))('%s: what only one changed is merged, what both changed is asked', async (name) => {
    const kind = await KINDS[name]!();
    const typed = TYPED[name] ?? MINE;
    await kind.open();
    await browser.find(kind.field);
    // What was made for this may not have come yet.
    if (kind.from !== undefined) await browser.until(async () => (await value(kind.field)) === kind.from);
    await type(kind.field, typed);
    await kind.theirs();
    await browser.see('Decide before you save.', '[data-testid=theirs]');
    await kind.sees();
    expect(await value(kind.field)).toBe(typed);
    const form = `//form[.//*[@data-testid="theirs"]]`;
    const save = kind.save ?? 'Save';
    const before = await kind.saved();
    await browser.onPath(`${form}//button[normalize-space(.)="${save}"]`, (e) => e.click());
    // The question has the focus, and nothing was saved.
    await browser.until(() =>
      browser.driver.executeScript<boolean>(() => document.activeElement?.textContent === 'Keep yours'),
    );
    expect(await kind.saved()).toEqual(before);
    await browser.press(Key.ENTER);
    await browser.gone('[data-testid=theirs]');
    await browser.onPath(
      `//*[@name="${/\[name="?([^"\]]*)/.exec(kind.field)![1]}"]/ancestor::form//button[normalize-space(.)="${save}"]`,
      (e) => e.click(),
    );
    const dialog = 'dialog[aria-label="What this change does"]';
    if (['schedules', 'access groups', 'doors', 'holidays'].includes(name)) {
      await browser.see('It undoes what Tormod Vik saved meanwhile', dialog);
      await browser.onPath('//dialog//button[.="Save"]', (e) => e.click());
      await browser.gone(dialog);
    }
    await expect.poll(kind.saved).toEqual(kind.expected);
  });

  it('cases: of two prints typed for one specimen neither is lost', async () => {
    const bits = (n: number) => encode(catalogued('26-8-16')!, { facility: '58', number: String(n) }).toBinary();
    const specimens = [{ bits: bits(71) }, { bits: bits(72), printed: '72' }];
    const { id } = await api('POST', '/cases', { name: 'Grey fobs', specimens });
    const now = () => api('GET', `/cases/${id}`);
    const prints = async () => (await now()).specimens.map(({ printed }: { printed?: string }) => printed);
    await browser.move(`${at}/identify/${id}`);
    await browser.on('[data-print="0"]', (e) => e.sendKeys('71'));
    await api('PATCH', `/cases/${id}`, {
      revision: (await now()).revision,
      specimens: [{ ...specimens[0], printed: '17' }, specimens[1]],
    });
    await browser.press(Key.ENTER);
    await browser.see('yours is print 71, theirs is print 17', '[data-testid=both]');
    expect([await value('[data-print="0"]'), await prints()]).toEqual(['17', ['17', '72']]);
    await browser.click('Use yours');
    await browser.gone('[data-testid=both]');
    await expect.poll(prints).toEqual(['71', '72']);
    // A row above that is taken out does not bring what is typed to another specimen.
    await browser.on('[data-print="1"]', (e) => e.sendKeys('0'));
    await api('PATCH', `/cases/${id}`, { revision: (await now()).revision, specimens: [specimens[1]] });
    await browser.press(Key.ENTER);
    await expect.poll(prints).toEqual(['720']);
  });

  it('every kind of form that keeps drafts has its case', () => {
    const files = readdirSync(join(import.meta.dirname, '../../web/src'), { recursive: true, encoding: 'utf8' });
    const kinds = files
      .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$/.test(file))
      .flatMap((file) => {
        const text = readFileSync(join(import.meta.dirname, '../../web/src', file), 'utf8');
        const constants = new Map(
          [...text.matchAll(/const ([A-Z]+) = '([^']+)'/g)].map(([, key, word]) => [key!, word!]),
        );
        return [...text.matchAll(/useKeptForm(?:<\w+>)?\(\s*(?:'([^']+)'|([A-Z]+))/g)].map(
          ([, word, key]) => word ?? constants.get(key!)!,
        );
      });
    expect([...new Set(kinds)].filter((kind) => !(kind in KINDS) && !NEW_ONLY.includes(kind))).toEqual([]);
    expect(NEW_ONLY.filter((kind) => !kinds.includes(kind))).toEqual([]);
  });
});
