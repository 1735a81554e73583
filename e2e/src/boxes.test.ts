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
    browser = await Browser.ofWorker();
    const { login, password } = OPERATORS[1];
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    at = (await browser.driver.getCurrentUrl()).replace(/\/read.*/, '');
  });
  afterAll(async () => {
    await application?.close();
  });
  const type = (name: string, text: string) =>
    browser.on(`form[aria-label="Enter a box"] [name=${name}]`, async (e) => {
      await e.sendKeys(Key.chord(Key.CONTROL, 'a'), text);
    });
  const enter = async (label: Record<string, string>) => {
    await browser.move(`${at}/stock/boxes`);
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
    await browser.move(`${at}/stock/boxes`);
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

  it('its card is presented and issued from stock; a print that is another card’s is told before', async () => {
    await hold(browser, 'stock-10902', 'desk-pad');
    // It has come, before the page that issues what came last is asked for.
    await browser.see('26 bits', 'header a[title="Open it on Read"]');
    await browser.move(`${at}/stock?issue=latest`);
    await browser.see('of the box White cards, spring order', '[data-testid=from-stock]');
    await browser.on('form[aria-label="Issue a card"] [name=printed]', (e) => e.sendKeys('10920'));
    await browser.see('The reader delivered number 10902, and 10920 is printed', '[data-testid=print-doubt]');
    await browser.on('form[aria-label="Issue a card"] [name=printed]', (e) =>
      e.sendKeys(Key.chord(Key.CONTROL, 'a'), '10902'),
    );
    await browser.gone('[data-testid=print-doubt]');
    await browser.onPath('//option[contains(., "Bård Nes")]', (e) => e.click());
    await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
    await browser.see('Card 58/10902', '[aria-label="One card"] h2');
    // Left on the ferry: the next one takes its place.
    await browser.click('Replace it …');
    await browser.on('form[aria-label="Replace the card"] input.font-mono', (e) => e.sendKeys('10903'));
    await browser.see('58/10903, of the box White cards', '[data-testid=replacement]');
    await browser.on('form[aria-label="Replace the card"] button[type=submit]', (e) => e.click());
    await browser.see('Card 58/10903', '[aria-label="One card"] h2');
    await browser.see('in place of card 58/10902', '[aria-label=History]');
    await browser.click('White cards, spring order');
    await browser.see('48 in stock, 1 active, 1 lost', '[aria-label="One box"]');
    // The next one of the box, without a reader.
    await browser.click('Issue the next one');
    await browser.see('of the box White cards, spring order', '[data-testid=from-stock]');
    expect(await browser.on('input[name=number]', (e) => e.getAttribute('value'))).toBe('10901');
    // By keyboard: after the name a few keys, and it is issued.
    await browser.tabTo('select[name=holderId]');
    await browser.press('Oline');
    const before = browser.pressed;
    await browser.chord(Key.CONTROL, Key.ENTER);
    await browser.see('Card 58/10901', '[aria-label="One card"] h2');
    await browser.see('Oline Strand', '[aria-label="One card"] select[name=holderId] option:checked');
    expect(browser.pressed - before).toBeLessThan(10);
    await browser.move(`${at}/stock/boxes`);
    await browser.click('White cards, spring order');
    await browser.click('Take this box back');
    await browser.click('Take the whole box back');
    await browser.see('3 cards of this box were issued: the box stays.', '[aria-label="One box"]');
  });

  it('what its cards are found by stays through other screens, is kept by a name, and is cleared by one click', async () => {
    const found = (words: string) => browser.see(words, 'main');
    await browser.move(`${at}/stock`);
    await browser.on('[aria-label="Search cards"]', (e) => e.sendKeys('11000-11019'));
    await found('20 cards found');
    await browser.click('Doors');
    await browser.see('Doors', 'h1');
    await browser.click('Stock');
    await found('20 cards found');
    await browser.click('more filters');
    await browser.click('save this filter');
    await browser.on('[aria-label="Name of the filter"]', (e) => e.sendKeys('Red, the first twenty', Key.ENTER));
    await browser.see('forget “Red, the first twenty”');
    await browser.click('show all');
    await found('on file');
    await browser.onPath('//select[@aria-label="Saved filters"]/option[.="Red, the first twenty"]', (e) => e.click());
    await found('20 cards found');
    await browser.driver.navigate().refresh();
    await found('20 cards found');
    await browser.click('show all');
    await found('on file');
  });

  it('what to order is the next free run after all on file', async () => {
    await browser.move(`${at}/stock/boxes?order=`);
    const fewer = '[aria-label="What to order"] input';
    await browser.on(fewer, (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), '10000'));
    await browser.see('code 58', '[aria-label="What to order"]');
    await browser.see('11100', '[aria-label="What to order"]');
    await browser.on(fewer, (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), '1'));
    await browser.see('enough is left', '[aria-label="What to order"]');
    await browser.on(fewer, (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), 'many'));
    await browser.see('Give how many', '[aria-label="What to order"]');
  });

  it('is taken back whole, as long as none of it was issued', async () => {
    await browser.move(`${at}/stock/boxes`);
    await browser.click('Red cards');
    await browser.click('Take this box back');
    await browser.click('Take the whole box back');
    await browser.gone('[aria-label="One box"]');
    await browser.until(async () => !(await browser.textOf('main')).includes('Red cards'), 'the box is still listed');
    expect((await browser.driver.findElements(By.css('[aria-label="Boxes"] tbody tr'))).length).toBeGreaterThan(2);
  });
});
