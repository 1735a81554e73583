/** From an empty installation to an open door, without the demo: the browser in Auckland, the server in UTC, the site in Oslo. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Application, startApplication } from './application.ts';
import { Browser, By, Key } from './browser.ts';

const PASSWORD = 'kelp barnacle sounding line';

describe('a site that begins', () => {
  let application: Application;
  let browser: Browser;
  let site = '';
  beforeAll(async () => {
    application = await startApplication(undefined, ['--no-demo']);
    browser = await Browser.ofWorker();
    await browser.zone('Pacific/Auckland');
  });
  afterAll(async () => {
    await application?.close();
  });

  const api = <T>(path: string) =>
    browser.driver.executeAsyncScript<T>((address: string, done: (value: unknown) => void) => {
      void fetch(`/api${address}`)
        .then((response) => response.json())
        .then(done);
    }, path);
  const field = (label: string) => `//label[.="${label}"]/following-sibling::*[self::input or self::select]`;
  const type = (label: string, text: string) =>
    browser.onPath(field(label), async (e) => {
      await e.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.BACK_SPACE);
      await e.sendKeys(text);
    });
  const hold = async (card: string, reader: string) => {
    await browser.on(`[data-card=${card}]`, (e) => e.click());
    await browser.on(`[data-reader=${reader}]`, (e) => e.click());
  };
  const presented = '[data-testid=presented]';
  const door = '[data-controller=first-door]';

  it('is set up in the browser, by whoever has the one-time code', async () => {
    const [, code] = /with the code (\S+)/.exec(application.output()) ?? [];
    await browser.driver.get(application.url);
    await browser.see('Nobody works here yet');
    await browser.click('Set it up');
    await browser.see('A sign-in name has 2 to 40 letters');
    await type('One-time code', `${code}x`);
    await type('Your name', 'Runa Feltskog');
    await type('Your sign-in name', 'runa');
    await type('Your password', PASSWORD);
    await type('Name of the site', 'Kelp Bank Light');
    await type('Short, as it stands in the rail', 'Kelp Bank');
    // What the browser's own clock has is offered.
    expect(await browser.onPath(field('Time zone'), (e) => e.getAttribute('value'))).toBe('Pacific/Auckland');
    await type('Time zone', 'Europe/Nowhere');
    await browser.click('Set it up');
    await browser.see('Give a time zone such as Europe/Oslo');
    await type('Time zone', 'Europe/Oslo');
    await browser.click('Set it up');
    await browser.see('The setup token is wrong.', '[role=alert]');
    await type('One-time code', code!);
    await browser.click('Set it up');
    await browser.find('nav[aria-label=Screens]');
    [{ id: site }] = (await api<{ id: string }[]>('/sites')) as [{ id: string }];
  });

  it('gets the rig, and a card of it goes the whole way to an open door', async () => {
    await browser.driver.get(`${application.url}/${site}/doors`);
    await browser.see('This site has no controllers yet.');
    await browser.click('bring the rig in');
    await browser.click('Bring the rig in');
    await browser.see('The rig is at this site');
    await browser.on('aside button', (e) => e.click());
    await hold('fob-1', 'first-door-outside');
    await browser.see('refused. No format in this controller has 37 bits; none is loaded at all.', presented);
    const { cards } = await api<{ cards: { id: string; printed: string }[] }>(`/sites/${site}/rig`);
    const { printed } = cards.find(({ id }) => id === 'fob-1')!;
    await browser.click('Read');
    await browser.on('input[placeholder="as on the card"]', (e) => e.sendKeys(printed));
    await browser.see('print agrees', 'tr[aria-selected=true]');
    await browser.click('Accept at a door');
    await browser.onPath('//fieldset//button[.="First door"]', (e) => e.click());
    await browser.see('never loaded', `${door} [data-testid=standing]`);
    await browser.click('Read');
    await browser.click('Issue this card');
    await browser.onPath(`${field('Held by')}/option[contains(., "new")]`, (e) => e.click());
    await browser.onPath(field('Name'), (e) => e.sendKeys('Ymer Skaug'));
    await browser.onPath(field('Valid through'), (e) => e.sendKeys('06302037'));
    await browser.see('as days are in Europe/Oslo', 'form[aria-label="Issue a card"]');
    await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
    await browser.see(printed, '[aria-label="One card"] h2');
    await browser.click('Doors');
    await browser.click('Load First door');
    await browser.see('current', `${door} [data-testid=standing]`);
    await hold('fob-1', 'first-door-outside');
    await browser.see(`opened. Number ${printed}`, presented);
  });

  it('a card is valid through the day that was chosen, as the site has it, whatever clock the browser has', async () => {
    const { cards } = await api<{ cards: { validTo: string }[] }>(`/sites/${site}/cards`);
    // Oslo is UTC+2 in summer (IANA time zone database): 30 June ends there at 22:00 UTC.
    expect(cards[0]!.validTo).toBe('2037-06-30T22:00:00.000Z');
    await browser.click('Stock');
    await browser.see('2037-06-30', 'section[aria-label=Cards] tbody');
    await browser.on('section[aria-label=Cards] tbody a', (e) => e.click());
    expect(await browser.onPath(field('Valid through'), (e) => e.getAttribute('value'))).toBe('2037-06-30');
    // Saved again from here it is the same day.
    await browser.onPath('//label[.="Notes"]/following-sibling::textarea', (e) => e.sendKeys('seen'));
    await browser.click('Save');
    await expect
      .poll(async () => (await api<{ cards: { validTo: string; notes: string }[] }>(`/sites/${site}/cards`)).cards[0])
      .toMatchObject({ validTo: '2037-06-30T22:00:00.000Z', notes: 'seen' });
  });

  it('controllers, readers and another site are added on screen', async () => {
    await browser.click('Doors');
    await browser.click('Add a controller');
    await browser.onPath('//form[@aria-label="Add a controller"]//button', (e) => e.click());
    await browser.see('A device has 1 to 40 lower-case letters', 'form');
    await type('Name', 'Boathouse');
    await type('Device', 'boathouse');
    await browser.onPath('//form[@aria-label="Add a controller"]//button', (e) => e.click());
    await browser.see('does not answer', '[data-controller=boathouse]');
    await browser.click('Add a reader');
    await type('Name', 'Boathouse, sea side');
    await type('Device', 'boathouse-sea');
    await browser.onPath(`${field('Its line goes to')}/option[.="Boathouse"]`, (e) => e.click());
    await browser.onPath('//form[@aria-label="Add a reader"]//button', (e) => e.click());
    await browser.see('Boathouse, sea side', '[data-controller=boathouse]');
    await browser.onPath('//li[@data-reader-line="boathouse-sea"]//button[.="change or remove"]', (e) => e.click());
    await browser.onPath(`//form[@aria-label="Change Boathouse, sea side"]${field('Name')}`, (e) =>
      e.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Boathouse, pier', Key.ENTER),
    );
    await browser.see('Boathouse, pier', '[data-controller=boathouse]');
    await browser.onPath('//*[@data-controller="boathouse"]//button[.="change or remove"]', (e) => e.click());
    await browser.click('Remove …');
    await browser.see('Raw Bits has never loaded Boathouse', '[aria-label="Remove Boathouse"]');
    await browser.see('Boathouse, pier', '[aria-label="Remove Boathouse"]');
    await browser.click('Remove Boathouse');
    await browser.gone('[data-controller=boathouse]');
    await browser.gone('[data-reader-line=boathouse-sea]');
    await browser.driver.get(`${application.url}/${site}/site`);
    const another = '//form[@aria-label="Another site"]';
    await browser.onPath(`${another}${field('Name')}`, (e) => e.sendKeys('Gannet Stack'));
    await browser.onPath(`${another}${field('Short, as it stands in the rail')}`, (e) => e.sendKeys('Gannet'));
    await browser.onPath(`${another}//button`, (e) => e.click());
    await browser.see('Gannet Stack', 'h1');
    expect((await api<{ timeZone: string }[]>('/sites')).map(({ timeZone }) => timeZone)).toEqual([
      'Europe/Oslo',
      'Europe/Oslo',
    ]);
    expect((await browser.complaints()).filter((line) => !line.includes('/api/setup'))).toEqual([]);
    expect((await browser.driver.findElements(By.css('[role=alert]'))).length).toBe(0);
  });

  it('a site goes out as a file, and comes in from it beside itself', async () => {
    const text = await browser.driver.executeAsyncScript<string>((id: string, done: (text: string) => void) => {
      void fetch(`/api/sites/${id}/export?history=true`)
        .then((response) => response.text())
        .then(done);
    }, site);
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-file-'));
    const file = join(folder, 'site.jsonl');
    const form = '//form[@aria-label="Import a site"]';
    const take = async (content: string) => {
      writeFileSync(file, content);
      await browser.driver.get(`${application.url}/${site}/site`);
      await browser.onPath(`${form}//input[@type="file"]`, (e) => e.sendKeys(file));
      await browser.onPath(`${form}//label[.="Name"]/following-sibling::input`, async (e) => {
        await e.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Kelp Bank, once more');
      });
      await browser.onPath(`${form}//button`, (e) => e.click());
    };
    // Cut on its way: refused, and nothing of it stays.
    await take(text.trimEnd().split('\n').slice(0, -1).join('\n'));
    await browser.see('The end of the file has not come yet.', '[role=alert]');
    await take(text);
    await browser.see('Kelp Bank, once more is here', 'form[aria-label="Import a site"]');
    rmSync(folder, { recursive: true });
    const sites = await api<{ id: string; name: string }[]>('/sites');
    expect(sites.map(({ name }) => name).sort()).toEqual(['Gannet Stack', 'Kelp Bank Light', 'Kelp Bank, once more']);
    const taken = sites.find(({ name }) => name === 'Kelp Bank, once more')!.id;
    const cards = async (id: string) => (await api<{ total: number }>(`/sites/${id}/cards`)).total;
    expect(await cards(taken)).toBe(await cards(site));
    expect(await cards(taken)).toBeGreaterThan(0);
  });

  it('is not thrown away unasked', async () => {
    const { folder } = application;
    await application.stop();
    await expect(startApplication(folder, ['--fresh'])).rejects.toThrow('holds more than the demo');
    application = await startApplication(folder, ['--no-demo']);
    expect(application.output()).not.toContain('Nobody works here yet');
    await browser.driver.get(application.url);
    await browser.find('nav[aria-label=Screens]');
    await browser.see('Kelp Bank', 'select[aria-label=Site]');
  });
});
