/** What a technician does in more than one story. */
import type { Browser } from './browser.ts';

/** Holds a credential of the tray to a reader, with the rig open. */
export async function hold(browser: Browser, card: string, reader: string): Promise<void> {
  await browser.on(`[data-card=${card}]`, (e) => e.click());
  await browser.on(`[data-reader=${reader}]`, (e) => e.click());
}

/** From a read in hand of a fob that no door knows: accepted at the main building, issued to Bård Nes, loaded, and let in. */
export async function acceptIssueAndLoad(
  browser: Browser,
  at: string,
  fob: { card: string; number: string },
): Promise<void> {
  await browser.on('input[placeholder="as on the card"]', (e) => e.sendKeys(fob.number));
  await browser.click('Accept at a door');
  await browser.onPath('//fieldset//button[.="Main building"]', (e) => e.click());
  // The door accepts a format of this length already: what becomes ambiguous is shown first.
  await browser.see('Nothing is saved yet', 'dialog');
  await browser.click('Save the change');
  await browser.see('waiting', '[data-controller=main-building] [data-testid=standing]');
  await browser.move(`${at}/stock?issue=latest`);
  await browser.onPath('//option[contains(., "Bård Nes")]', (e) => e.click());
  await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
  await browser.see(`Card ${fob.number}`, '[aria-label="One card"] h2');
  await browser.click('Doors');
  await browser.click('Load Main building');
  await browser.see('current', '[data-controller=main-building] [data-testid=standing]');
  await hold(browser, fob.card, 'main-entrance');
  await browser.see(`opened. Number ${fob.number}`, '[data-testid=presented]');
}
