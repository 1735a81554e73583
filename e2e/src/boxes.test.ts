/** A box from its label to a card in somebody's hand: entered, refused the second time, held against its label, taken back. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, By, Key } from './browser.ts';
import { hold } from './steps.ts';

describe('a box', () => {
  let application: Application;
  let browser: Browser;
  let at: string;
  beforeAll(async () => {
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
  });
  const type = (name: string, text: string) =>
    browser.on(`form[aria-label="Enter a box"] [name=${name}]`, async (e) => {
      await e.sendKeys(Key.chord(Key.CONTROL, 'a'), text);
    });
  const enter = async (label: Record<string, string>) => {
    await browser.driver.get(`${at}/stock/boxes`);
    await browser.click('Enter a box');
    for (const [name, text] of Object.entries(label)) await type(name, text);
    await browser.click('Review');
    await browser.find('[data-testid=review]');
  };

  it('is entered from its label, with the bits that its cards will deliver', async () => {
    await enter({ facility: '58', first: '11000', last: '11099', name: 'Red cards' });
    await browser.see('Nothing on file stands in the way', '[data-testid=review]');
    // 26 bits of code 58 and number 11000, in hex.
    await browser.see('27455F0', '[data-testid=review]');
    await browser.click('Enter 100 cards');
    await browser.see('100 in stock', '[aria-label="One box"]');
    await browser.see('58/11000 – 11099', '[aria-label="One box"]');
    await browser.click('its cards');
    await browser.see('100 cards', 'main');
    await browser.see('Red cards', 'main');
  });

  it('entered again it says what overlaps, and enters nothing', async () => {
    await enter({ facility: '58', first: '11000', last: '11099', name: 'Red cards once more' });
    await browser.see('All of these cards are on file already', '[data-testid=review]');
    await browser.see('The box Red cards names 11000 – 11099, too', '[data-testid=review]');
    await browser.on('form[aria-label="Enter a box"] button[type=submit]', async (button) => {
      expect([await button.getText(), await button.isEnabled()]).toEqual(['Leave 100 out, enter 0', false]);
    });
    await browser.click('Cancel');
  });

  it('held against its label: cards of it, and one that is not', async () => {
    await browser.driver.get(`${at}/stock/boxes`);
    await browser.click('White cards, spring order');
    await browser.click('Check cards against the label');
    await browser.see('Begin with the first (10901)', '[aria-label="Against its label"]');
    await browser.press('g');
    await hold(browser, 'stock-10902', 'desk-pad');
    await browser.see('1 card is what the label says', '[data-testid=label-verdict]');
    await browser.see('10901 (the first), 10950 (the last)', '[aria-label="Against its label"]');
    await hold(browser, 'isak', 'desk-pad');
    await browser.see('not of this format: 34-16-16 4127/20417', '[aria-label="Against its label"]');
  });

  it('is taken back whole, as long as none of it was issued', async () => {
    await browser.driver.get(`${at}/stock/boxes`);
    await browser.click('Red cards');
    await browser.click('Take this box back');
    await browser.click('Take the whole box back');
    await browser.gone('[aria-label="One box"]');
    await browser.until(async () => !(await browser.textOf('main')).includes('Red cards'), 'the box is still listed');
    expect((await browser.driver.findElements(By.css('[aria-label="Boxes"] tbody tr'))).length).toBeGreaterThan(2);
  });
});
