/** A whole case in the real interface: from a tin of unlabelled fobs to a door that opens for one never read before. */

import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isWhole } from '../../core/testing/runs.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';
import { acceptIssueAndLoad, hold } from './steps.ts';

/** What is pasted at once; three of the rows are bad. */
const ROWS = isWhole ? 10_000 : 1_000;

const bitsOf = (number: string) => encode(catalogued('34-0-32')!, { number }).toBinary();

describe('the fuel dock’s tin of fobs', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    await browser.signIn(application.url, OPERATORS[1].login, OPERATORS[1].password);
    await browser.find('h1');
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
  });
  afterAll(async () => {
    await application?.close();
  });

  /** Present, type, Enter: the print field of the new specimen has the keys already. */
  const take = async (card: string, row: number, print: string) => {
    await hold(browser, card, 'desk-pad');
    await browser.until(
      () =>
        browser.driver.executeScript<boolean>(
          (index: number) => document.activeElement?.getAttribute('data-print') === String(index),
          row,
        ),
      `the print field of row ${row} never had the keys`,
    );
    await browser.press(print, Key.ENTER);
  };
  const prediction = (number: string) => `[data-prediction="${number}"]`;

  it('is ambiguous, is parted by the card named, and predicts the bits of a fob never read', async () => {
    await browser.click('Identify');
    await browser.on('form[aria-label="Start a case"] input', (e) => e.sendKeys('Fuel dock, green fobs', Key.ENTER));
    await browser.see('No specimen yet');
    await browser.on('aside button', (e) => e.click());
    await browser.on('[data-testid=arm]', (e) => e.click());
    await browser.see('Waiting for a card');
    await take('fuel-1', 0, '40961');
    await take('fuel-2', 1, '40962');
    await take('fuel-3', 2, '40964');
    await browser.see('3 specimens · 34 bits', '[data-testid=case-status]');
    await browser.see('2 layouts fit: these cards do not part them', '[data-testid=summary]');
    await browser.see('Any card from 65,536', '[data-testid=tie-breaker]');
    await browser.see(
      'tells whether bits 2-17 belong to the facility code or to the number',
      '[data-testid=tie-breaker]',
    );
    await browser.on('input[aria-label="Numbers to predict"]', (e) => e.sendKeys('106500', Key.ENTER));
    await browser.see('open', prediction('106500'));

    // The tie-breaker: a fob of the tin above 65,535.
    await take('fuel-5', 3, '106503');
    await browser.see('One layout fits', '[data-testid=summary]');
    await browser.see('proven', prediction('106500'));
    await browser.see(bitsOf('106500'), prediction('106500'));
    await browser.see('had a wrong print or were misread', prediction('106500'));
    await browser.see('Of the', '[data-testid=box]');
    await take('fuel-4', 4, '40967');
    await browser.see('1 check left over, all of them hold', '[data-testid=checks-left]');
    await browser.see('34-0-32 of the library', '[data-testid=layouts]');
  });

  it('a mistyped print is suspected, and mended', async () => {
    const print = await browser.find('[data-print="4"]');
    await print.sendKeys(Key.chord(Key.CONTROL, 'a'), '40966', Key.ENTER);
    await browser.see('most likely mistyped', '[data-testid=suspects]');
    await browser.click('the print is 40967');
    await browser.see('all of them hold', '[data-testid=checks-left]');
  });

  it('moving over the columns tells why, by keyboard', async () => {
    await browser.driver.executeScript(() => (document.querySelector('[data-testid=stack]') as HTMLElement).focus());
    await browser.press(Key.END);
    await browser.see('Bit 34', '[data-testid=column-words]');
    await browser.press(Key.ARROW_LEFT);
    await browser.see('Bit 33', '[data-testid=column-words]');
  });

  it('its format is made and loaded, and the door opens for the fob whose bits were predicted', async () => {
    await browser.click('Make the format');
    await browser.click('Make it, and use it at this site');
    await browser.see('34 bits, 4-byte UID in parity', 'h2');
    await browser.see('proven on 5 cards');
    await hold(browser, 'fuel-6', 'main-entrance');
    await browser.see('refused', '[data-testid=presented]');
    await browser.click('Read');
    expect(await browser.on('[data-tape]', (e) => e.getAttribute('data-tape'))).toBe(bitsOf('106500'));
    await acceptIssueAndLoad(browser, `${application.url}/${site}`, { card: 'fuel-6', number: '106500' });
    expect(await browser.complaints()).toEqual([]);
  });

  it(`${ROWS.toLocaleString('en')} pasted rows with bad ones among them: each is named, the good ones can be taken, and typing goes on`, async () => {
    await browser.move(`${application.url}/${site}/identify`);
    await browser.on('form[aria-label="Start a case"] input', (e) => e.sendKeys('Many', Key.ENTER));
    await browser.click('paste or CSV');
    await browser.driver.executeScript((count: number) => {
      const rows = Array.from({ length: count }, (_, i) => {
        const number = (i * 7) % 65_536;
        const body = `00111010${number.toString(2).padStart(16, '0')}`;
        const odd = (text: string) => [...text].filter((c) => c === '1').length % 2;
        const bits = `${odd(body.slice(0, 12))}${body}${1 - odd(body.slice(12))}`;
        return i % (0.3 * count) === 0.15 * count
          ? `${bits.slice(0, 5)}x${bits.slice(6)},${number}`
          : `${bits},${number}`;
      });
      const field = document.querySelector<HTMLTextAreaElement>('textarea[aria-label="Reads and prints"]')!;
      const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value')!.set!;
      set.call(field, ['read,printed', ...rows].join('\n'));
      field.dispatchEvent(new Event('input', { bubbles: true }));
    }, ROWS);
    await browser.click('Add them');
    await browser.see(`Row ${0.15 * ROWS + 2}:`, 'section[aria-label="Paste specimens"]');
    await browser.click('good rows alone');
    await browser.see(`${(ROWS - 3).toLocaleString('en')} specimens · 26 bits`, '[data-testid=case-status]');
    await browser.see('One layout fits', '[data-testid=summary]');
    expect(await browser.driver.executeScript(() => document.querySelectorAll('[data-print]').length)).toBeLessThan(60);
  });
});
