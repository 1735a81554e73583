/** Who may pass: a schedule is changed, shown before it is saved, loaded; it lets in, and five minutes later refuses. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

/** A Tuesday; 19:26 on the clocks of Oslo, which are an hour ahead of UTC in winter. */
const EVENING = Date.parse('2030-12-03T18:26:00Z');

describe('who may pass', () => {
  let application: Application;
  let browser: Browser;
  let at: string;
  let folder: string;
  const setClock = (instantMs: number) => writeFileSync(join(folder, 'ahead'), String(instantMs - Date.now()));
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-clock-'));
    setClock(EVENING);
    application = await startApplication(undefined, [], { RAWBITS_RIG_CLOCK_FILE: join(folder, 'ahead') });
    browser = await Browser.ofWorker();
    const { login, password } = OPERATORS[1];
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    at = (await browser.driver.getCurrentUrl()).replace(/\/read.*/, '');
  });
  afterAll(async () => {
    await application?.close();
    rmSync(folder, { recursive: true, force: true });
  });
  const chooseSchedule = async (name: string) => {
    await browser.move(`${at}/doors/schedules`);
    await browser.onPath(`//nav[@aria-label="Schedules"]//a[contains(., "${name}")]`, (e) => e.click());
    await browser.find('[data-testid=week-words]');
  };
  const until = async (time: string) => {
    await browser.on('[aria-label="One schedule"] input[name="periods.0.to"]', (e) =>
      e.sendKeys(Key.chord(Key.CONTROL, 'a'), time),
    );
    await browser.onPath('//section[@aria-label="One schedule"]//button[.="Save"]', (e) => e.click());
  };
  const hold = async () => {
    await browser.on('[data-card=ragna]', (e) => e.click());
    await browser.on('[data-reader=gear-store-outside]', (e) => e.click());
  };

  it('a schedule that ends in four minutes lets in, and five minutes later refuses and says why', async () => {
    await chooseSchedule('Working days');
    await until('19:30');
    const dialog = 'dialog[aria-label="What this change does"]';
    await browser.see('Mon–Fri 19:00–19:30', dialog);
    await browser.see('Mikkel Aune, Ragna Holm', dialog);
    await browser.see('the next load of Gear store', dialog);
    await browser.onPath('//dialog//button[.="Save"]', (e) => e.click());
    await browser.gone(dialog);
    await browser.see('Mon–Fri 07:00–19:30', '[aria-label=Schedules]');
    await browser.move(`${at}/doors`);
    await browser.see('schedule Working days', '[data-controller=gear-store]');
    await browser.click('Load Gear store');
    await browser.see('current', '[data-controller=gear-store] [data-testid=standing]');
    await browser.press('g');
    setClock(EVENING);
    await hold();
    await browser.see('Wet labs, by Working days.', '[data-testid=presented]');
    setClock(EVENING + 300_000);
    await hold();
    await browser.see('does not hold now, Tuesday 2030-12-03 19:31', '[data-testid=presented]');
  });

  it('a change that breaks an assertion says who, where and when, and is saved only knowingly', async () => {
    await chooseSchedule('Working days');
    await until('22:15');
    const dialog = 'dialog[aria-label="What this change does"]';
    await browser.see('“The gear store at night is the dive team’s” would hold no more.', dialog);
    await browser.see('could pass Gear store on', dialog);
    await browser.see('at 22:00', dialog);
    const save = await browser.onPath('//dialog//button[.="Save"]', (e) => e.isEnabled());
    expect(save).toBe(false);
    await browser.onPath('//dialog//button[.="Cancel"]', (e) => e.click());
    await browser.gone(dialog);
    await browser.move(`${at}/doors/passing/assertions`);
    await browser.see('holds', '[aria-label="The gear store at night is the dive team’s"]');
  });
});
