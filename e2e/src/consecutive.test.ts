/** A box of consecutive cards with two neighbours exchanged, as people paste them: mended, settled, made, loaded, opened. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';
import { acceptIssueAndLoad, hold } from './steps.ts';

const bitsOf = (number: number) => encode(catalogued('34-0-32')!, { number: String(number) }).toBinary();

describe('ten of a box of green fobs, pasted from a sheet', () => {
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
  const paste = (text: string) =>
    browser.driver.executeScript((pasted: string) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text', pasted);
      document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    }, text);
  const prediction = '[data-prediction="106500"]';

  it('what is pasted goes into the case, the exchange is named, and one click puts it right', async () => {
    await browser.click('Identify');
    await browser.on('form[aria-label="Start a case"] input', (e) => e.sendKeys('Box of green fobs', Key.ENTER));
    await browser.see('No specimen yet');
    const prints = [106494, 106495, 106497, 106496, 106498, 106499];
    const rows = [106494, 106495, 106496, 106497, 106498, 106499].map((n, i) => `${bitsOf(n)},${prints[i]},,dock`);
    await paste(rows.join('\n'));
    await browser.see('6 specimens added', '[data-testid=undo]');
    await browser.on('input[aria-label="Numbers to predict"]', (e) => e.sendKeys('106500', Key.ENTER));
    await browser.see('The prints of cards 3 and 4 are swapped', '[data-testid=suspects]');
    // The newest print stays in sight though the suspects take room above it.
    const inSight = () =>
      browser.driver.executeScript<boolean>(() => {
        const print = document.querySelector('[data-print="5"]')!;
        const { left, top, width, height } = print.getBoundingClientRect();
        return [0.1, 0.9].every((part) => document.elementFromPoint(left + width / 2, top + height * part) === print);
      });
    await browser.until(inSight, 'the newest print went out of sight');
    // Led by what they agree on once it is put right.
    await browser.see('likely', prediction);
    await browser.see(bitsOf(106_500), prediction);
    await browser.click('exchange the prints');
    await browser.gone('[data-testid=suspects]');
    await browser.click('undo');
    await browser.see('The prints of cards 3 and 4 are swapped', '[data-testid=suspects]');
    await browser.click('exchange the prints');
    await browser.gone('[data-testid=suspects]');
  });

  it('a removed specimen comes back where it was', async () => {
    await browser.on('button[aria-label="Remove specimen 2"]', (e) => e.click());
    await browser.see('5 specimens', '[data-testid=case-status]');
    await browser.see('Specimen 2 removed', '[data-testid=undo]');
    await browser.click('undo');
    await browser.see('6 specimens', '[data-testid=case-status]');
    expect(await browser.on('[data-print="1"]', (e) => e.getAttribute('value'))).toBe('106495');
  });

  it('with cards from other parts of the box all of it is certain, whichever is read next being of the box', async () => {
    await browser.on('input[placeholder^="any, or"]', (e) => e.sendKeys('106400-106599', Key.ENTER));
    await browser.see('Of the 200 cards 106,400 to 106,599', '[data-testid=box]');
    const next = async () => Number(await browser.on('[data-testid=tie-breaker] span', (e) => e.getText()));
    for (const number of [106_401, 106_580, 106_533, 106_455]) {
      await paste(`${bitsOf(number)}\t${number}\t\tdock`);
    }
    await browser.see('10 specimens', '[data-testid=case-status]');
    await browser.see('of 96 are proven', '[data-testid=box]');
    const named = await next();
    expect(named).toBeGreaterThanOrEqual(106_400);
    expect(named).toBeLessThanOrEqual(106_599);
    await paste(`${bitsOf(named)}\t${named}\t\tdock`);
    await browser.see('none likely, none open', '[data-testid=box]');
    await browser.see('proven', prediction);
  });

  it('its format says for which box it is settled, is loaded, and opens the door for a fob never read', async () => {
    await browser.on('aside button', (e) => e.click());
    await browser.click('Make the format');
    await browser.see('Of the 200 cards 106,400 to 106,599', '[data-testid=settled-for]');
    await browser.click('Make it, and use it at this site');
    await browser.see('By 11 cards of the case Box of green fobs', '[data-testid=settled-for]');
    await hold(browser, 'fuel-6', 'main-entrance');
    await browser.see('refused', '[data-testid=presented]');
    await browser.click('Read');
    await acceptIssueAndLoad(browser, `${application.url}/${site}`, { card: 'fuel-6', number: '106500' });
    expect(await browser.complaints()).toEqual([]);
  });
});
