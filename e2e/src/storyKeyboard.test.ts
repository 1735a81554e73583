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
    browser = await Browser.ofWorker();
  });
  afterAll(async () => {
    await application?.close();
  });

  const presented = '[data-testid=presented]';
  const standing = '[data-controller=boat-shed] [data-testid=standing]';
  /** After what was done last the focus is somewhere, never on the body. */
  const isKept = async () =>
    expect(await browser.driver.executeScript(() => document.activeElement?.tagName)).not.toBe('BODY');
  /** Into the rig, along the tray to the card, then the reader's number. */
  const present = async () => {
    await browser.press('g');
    await browser.find('[data-card]:focus');
    const isThere = () =>
      browser.driver.executeScript<boolean>(() => document.activeElement?.matches('[data-card=unlabelled-1]') ?? false);
    const [at, to] = await browser.driver.executeScript<[number, number]>(() => {
      const cards = [...document.querySelectorAll('[data-card]')];
      return [
        cards.indexOf(document.activeElement!),
        cards.findIndex((card) => card.matches('[data-card=unlabelled-1]')),
      ];
    });
    for (let i = 0; i < Math.floor((to - at) / 2); i++) await browser.press(Key.ARROW_DOWN);
    if ((to - at) % 2 === 1) await browser.press(Key.ARROW_RIGHT);
    expect(await isThere()).toBe(true);
    const number = await browser.textOf('[data-reader=boat-shed-outside] kbd');
    await browser.press(number.trim());
  };
  /** To the filled button of the screen, which is the one that is meant. */
  const offered = async (words: string) => {
    await isKept();
    await browser.press('a');
    await browser.until(async () => (await browser.driver.switchTo().activeElement().getText()) === words);
    await browser.press(Key.ENTER);
  };
  /** By the command list: as much of the words is typed as it takes. */
  const command = async (words: string, typed = words) => {
    await isKept();
    await browser.chord(Key.CONTROL, 'k');
    await browser.find('[cmdk-input]');
    await browser.press(typed);
    // The list follows what is typed: the one that Enter would take is the one that is meant.
    const first = () => browser.textOf('[cmdk-item][aria-selected=true]');
    await browser.until(
      async () => (await first()).toLowerCase().includes(words),
      `${words} is not what Enter would take`,
    );
    await browser.press(Key.ENTER);
  };

  it('is refused, understood, accepted, issued, loaded, and let in', async () => {
    const { login, password } = OPERATORS[1];
    await browser.driver.get(application.url);
    await browser.find('input[autocomplete=username]');
    // The first empty field has the focus already.
    await browser.find('input[autocomplete=username]:focus');
    await browser.press(login, Key.TAB, password, Key.ENTER);
    await browser.find('nav[aria-label=Screens]');
    await browser.find('h1');
    await browser.settled();
    const before = browser.pressed;

    await present();
    await browser.see('refused. No format in this controller has 37 bits', presented);
    await browser.see('2 formats fit in full', '[data-testid=verdict]');

    await browser.press('n');
    await browser.press('118406');
    await browser.see('The print leaves one', '[data-testid=verdict]');
    // On to what is offered next, and into it: the first controller is the boat shed's.
    await browser.press(Key.ENTER);
    await browser.find('section[aria-label="What fits"] .btn-primary:focus');
    await browser.press(Key.ENTER);
    await browser.find('fieldset .btn:focus');
    await browser.press(Key.ENTER);
    await browser.see('1 change waiting', standing);
    await offered('Load Boat shed');
    await browser.see('current', standing);

    await present();
    await browser.see('refused. Number 118406 is not on file', presented);
    await command('issue a card from', 'iss');
    await browser.see('37 bits, 16 + 19.', 'form[aria-label="Issue a card"] p');
    await browser.find('select[name=holderId]:focus');
    await browser.press('Oline');
    await browser.chord(Key.CONTROL, Key.ENTER);
    await browser.see('Card 2214/118406', '[aria-label="One card"] h2');

    await present();
    await browser.see('on file for Oline Strand, but not loaded', presented);
    await command('load boat shed', 'load');
    await browser.see('current', standing);
    await present();
    await browser.see('opened. Number 118406', presented);
    await command('go to trail', 'trail');
    await browser.see('Tormod Vik issued card 2214/118406', 'section[aria-label^="What happened"]');
    expect(await browser.complaints()).toEqual([]);
    console.log(`from the refused card to the open door and its record: ${browser.pressed - before} keys`);
    expect(browser.pressed - before).toBeLessThan(60);
  });

  it('the tape is reached by Tab, and selects', async () => {
    await command('go to read');
    await browser.tabTo('[data-tape]');
    await browser.chord(Key.SHIFT, Key.ARROW_RIGHT);
    await browser.see('bit 1');
  });

  it('help opens where the screen is spoken of, and gives the focus back', async () => {
    await browser.press('h');
    await browser.see('What can be pasted', 'dialog[aria-label=Help] h2:focus');
    await browser.press(Key.ESCAPE);
    await browser.gone('dialog[aria-label=Help]');
    await isKept();
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
    await browser.find('[data-card]:focus');
    await browser.press('g');
    await browser.gone('[data-card]');
  });
});
