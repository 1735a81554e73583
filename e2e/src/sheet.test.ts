/** A sheet of 5,000 cards with twenty bad rows: reviewed, entered, the bad ones mended and sent again. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

describe('a sheet of cards', () => {
  let application: Application;
  let browser: Browser;
  let at: string;
  let folder: string;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-sheet-'));
    application = await startApplication();
    browser = await Browser.open();
    const { login, password } = OPERATORS[1];
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    at = (await browser.driver.getCurrentUrl()).replace(/\/read.*/, '');
  });
  afterAll(async () => {
    await browser?.close();
    await application?.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('its bad rows stay to be mended while the others are entered', async () => {
    const rows = Array.from({ length: 5000 }, (_, i) => {
      const number = i % 250 === 7 ? `${20_000 + i}O` : String(20_000 + i);
      return i % 10 === 0 ? `${number},Visitor ${i / 10},Ferry` : `${number},,`;
    });
    const file = join(folder, 'visitors.csv');
    writeFileSync(file, `card number,name,department\n${rows.join('\n')}\n`);
    await browser.driver.get(`${at}/stock/sheet`);
    await browser.on('input[type=file]', (e) => e.sendKeys(file));
    await browser.see('and 4,995 rows more', '[aria-label=Columns]');
    await browser.on('section[aria-label="Cards from a sheet"] input.font-mono', (e) => e.sendKeys('61'));
    await browser.click('Review 5,000 rows');
    await browser.see('4,980 cards can be entered: 500 held by somebody, 4,480 in stock', '[data-testid=sheet-review]');
    await browser.see('20 rows cannot', '[data-testid=sheet-review]');
    await browser.see('row 9', '[aria-label="Rows that cannot be entered"]');
    await browser.click('Enter 4,980 cards');
    // The twenty are what the sheet is now: mended in place, they are sent again.
    await browser.see('and 15 rows more', '[aria-label=Columns]');
    const text = (await browser.on('textarea', (e) => e.getAttribute('value'))) ?? '';
    expect(text).toContain('20007O');
    await browser.on('textarea', (e) =>
      e.sendKeys(Key.chord(Key.CONTROL, 'a'), text.replace(/O(?=,)/g, '').replace(/\r/g, '')),
    );
    await browser.click('Review 20 rows');
    await browser.see('20 cards can be entered', '[data-testid=sheet-review]');
    await browser.click('Enter 20 cards');
    await browser.gone('[aria-label=Columns]');
    await browser.driver.get(`${at}/stock?search=61%2F20007`);
    await browser.see('1 card found', 'main');
  });
});
