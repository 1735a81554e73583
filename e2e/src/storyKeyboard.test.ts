/** The main job by keyboard alone: no pointer touches the page. */

import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

describe('the boat shed’s unlabelled card, by keyboard', () => {
  let application: Application;
  let browser: Browser;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.open();
  });
  afterAll(async () => {
    await browser?.close();
    await application?.close();
  });

  const presented = '[data-testid=presented]';
  const standing = '[data-controller=boat-shed] [data-testid=standing]';
  /** In the tray: down to the card, then the reader's number. */
  const present = async () => {
    await browser.tabTo('[data-card][aria-checked=true]');
    for (let i = 0; i < 12; i++) {
      if (await browser.driver.executeScript(() => document.activeElement?.matches('[data-card=unlabelled-1]'))) break;
      await browser.press(Key.ARROW_DOWN);
    }
    const number = await browser.textOf('[data-reader=boat-shed-outside] kbd');
    await browser.press(number.trim());
  };
  const command = async (words: string) => {
    await browser.chord(Key.CONTROL, 'k');
    await browser.find('[cmdk-input]');
    await browser.press(words);
    // The list follows what is typed: the one that Enter would take is the one that is meant.
    const first = () => browser.textOf('[cmdk-item][aria-selected=true]');
    await browser.driver.wait(async () => (await first()).toLowerCase().includes(words));
    await browser.press(Key.ENTER);
  };

  it('is refused, understood, accepted, issued, loaded, and let in', async () => {
    const { login, password } = OPERATORS[1];
    await browser.driver.get(application.url);
    await browser.find('input[autocomplete=username]');
    await browser.tabTo('input[autocomplete=username]');
    await browser.press(login, Key.TAB, password, Key.ENTER);
    await browser.find('nav[aria-label=Screens]');
    await browser.find('h1');
    await browser.press('g');
    await browser.find('[data-card]');

    await present();
    await browser.see('refused. No format in this controller has 37 bits', presented);
    await browser.see('2 formats fit in full', '[data-testid=verdict]');

    await browser.press('/');
    await browser.press('118406');
    await browser.see('The print leaves one', '[data-testid=verdict]');
    await browser.tabTo('[data-tape]');
    await browser.chord(Key.SHIFT, Key.ARROW_RIGHT);
    await browser.see('bit 1');

    await browser.tabTo('section[aria-label="What fits"] button.btn-primary');
    await browser.press(Key.ENTER);
    await browser.find('fieldset legend');
    await browser.tabTo('fieldset .btn');
    await browser.press(Key.ENTER);
    await browser.see('1 change waiting', standing);
    await browser.tabTo('[data-controller=boat-shed] .btn');
    await browser.press(Key.ENTER);
    await browser.see('current', standing);

    await present();
    await browser.see('refused. Number 118406 is not on file', presented);
    await command('issue a card from');
    await browser.see('37 bits, 16 + 19.', 'form[aria-label="Issue a card"] p');
    await browser.tabTo('select[name=holderId]');
    await browser.press('Oline');
    await browser.tabTo('form[aria-label="Issue a card"] button[type=submit]');
    await browser.press(Key.ENTER);
    await browser.see('Card 2214/118406', '[aria-label="One card"] h2');

    await present();
    await browser.see('on file for Oline Strand, but not loaded', presented);
    await command('go to doors');
    await browser.tabTo('[data-controller=boat-shed] .btn');
    await browser.press(Key.ENTER);
    await browser.see('current', standing);
    await present();
    await browser.see('opened. Number 118406', presented);
    await command('go to trail');
    await browser.see('Tormod Vik issued card 2214/118406', 'section[aria-label^="What happened"]');
    expect(await browser.complaints()).toEqual([]);
  });

  it('single-key shortcuts can be switched off', async () => {
    await command('switch single-key');
    await browser.press('g');
    await browser.settled();
    expect(await browser.driver.executeScript(() => document.querySelectorAll('[data-card]').length)).toBeGreaterThan(
      0,
    );
    await command('switch single-key');
    await browser.press('g');
    await browser.driver.wait(
      async () => (await browser.driver.executeScript(() => document.querySelectorAll('[data-card]').length)) === 0,
      5000,
    );
  });
});
