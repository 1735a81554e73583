/** The main job by mouse: from an unlabelled card to an open door. */

import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser } from './browser.ts';

describe('the boat shed’s unlabelled card, by mouse', () => {
  let application: Application;
  let browser: Browser;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
  });
  afterAll(async () => {
    await application?.close();
  });

  const drag = async () => {
    const card = await browser.find('[data-card=unlabelled-1]');
    const reader = await browser.find('[data-reader=boat-shed-outside]');
    await browser.driver
      .actions()
      .move({ origin: card })
      .press()
      .move({ origin: card, x: 12, y: 12 })
      .move({ origin: reader, duration: 200 })
      .release()
      .perform();
  };
  const present = async () => {
    await browser.on('[data-card=unlabelled-1]', (e) => e.click());
    await browser.on('[data-reader=boat-shed-outside]', (e) => e.click());
  };
  const presented = '[data-testid=presented]';
  const shed = '[data-controller=boat-shed]';

  it('is refused, understood, accepted, issued, loaded, and let in', async () => {
    const { login, password } = OPERATORS[1];
    await browser.signIn(application.url, login, password);
    await browser.on('aside button', (e) => e.click());

    await drag();
    await browser.see('refused. No format in this controller has 37 bits; it accepts 26 bits.', presented);

    await browser.see('37 bits from Boat shed, outside', 'h1');
    await browser.see('2 formats fit in full: each of them is possible.', '[data-testid=verdict]');
    await browser.on('input[placeholder="as on the card"]', (e) => e.sendKeys('118406'));
    await browser.see('The print leaves one', '[data-testid=verdict]');
    await browser.see('37 bits, 16 + 19', 'tr[aria-selected=true]');
    await browser.see('print agrees', 'tr[aria-selected=true]');

    await browser.click('Accept at a door');
    await browser.onPath('//fieldset//button[.="Boat shed"]', (e) => e.click());
    await browser.see('1 change waiting', `${shed} [data-testid=standing]`);
    await browser.click('Load Boat shed');
    await browser.see('current', `${shed} [data-testid=standing]`);

    await present();
    await browser.see('refused. Number 118406 is not on file in this controller.', presented);

    await browser.click('Read');
    await browser.click('Issue this card');
    await browser.see('37 bits, 16 + 19.', 'form[aria-label="Issue a card"] p');
    await browser.onPath('//option[contains(., "Oline Strand")]', (e) => e.click());
    await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
    await browser.see('Card 2214/118406', '[aria-label="One card"] h2');
    await browser.see('opens none yet', '[aria-label="One card"]');

    await present();
    await browser.see('refused. The card is on file for Oline Strand, but not loaded: load Boat shed.', presented);

    await browser.click('Doors');
    await browser.see('card 2214/118406, Oline Strand, active', shed);
    await browser.click('Load Boat shed');
    await browser.see('current', `${shed} [data-testid=standing]`);
    await present();
    await browser.see('opened. Number 118406, facility code 2214, is on file and active.', presented);

    await browser.click('Trail');
    const trail = 'section[aria-label^="What happened"]';
    for (const words of [
      'Number 118406, facility code 2214, is on file and active.',
      'Tormod Vik loaded Boat shed: 2 formats and 4 cards are in force',
      'Tormod Vik issued card 2214/118406 to Oline Strand',
      'stopped at the number: Number 118406 is not on file in this controller.',
      'Tormod Vik let Boat shed accept 26-8-16, 37-16-19',
      'Tormod Vik took up format 37-16-19',
      'stopped at the length: No format in this controller has 37 bits',
    ])
      await browser.see(words, trail);
    await browser.click('Verify the record');
    await browser.see('entries are as they were written');
    expect(await browser.complaints()).toEqual([]);
  });

  it('the door still opens, and the session holds, after everything was stopped and started again', async () => {
    expect(await application.stop()).toBe(0);
    application = await startApplication(application.folder);
    expect(application.output()).not.toContain('was loaded');
    await browser.driver.get(application.url);
    await browser.on('aside button', (e) => e.click());
    await present();
    await browser.see('opened. Number 118406', presented);
  });
});
