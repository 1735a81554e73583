/** Makes the pictures of docs/screenshots from the demo: node bin/lib/build.mjs pictures && node dist/pictures.mjs */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CUSTODIANS, PASSPHRASE } from '../../demo/src/keys.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { startApplication } from './application.ts';
import { Browser, By, Key } from './browser.ts';

const folder = process.argv[2] ?? join(import.meta.dirname, '../docs/screenshots');
mkdirSync(folder, { recursive: true });
const application = await startApplication();
const browser = await Browser.open();
const save = async (name: string) => {
  await browser.settled();
  // What was done last is seen for a while only.
  await browser.gone('[data-testid=said]');
  writeFileSync(join(folder, `${name}.png`), Buffer.from(await browser.driver.takeScreenshot(), 'base64'));
};
const settings = (theme: string, rigOpen: boolean) =>
  browser.driver.executeScript(
    (t: string, open: boolean) => localStorage.setItem('rawbits.settings', JSON.stringify({ theme: t, rigOpen: open })),
    theme,
    rigOpen,
  );
let site = '';
const go = async (path: string, theme = 'chart-room', rigOpen = false) => {
  // From a page of the API, so that the application does not write its own settings over these.
  await browser.driver.get(`${application.url}/api`);
  await settings(theme, rigOpen);
  await browser.driver.get(`${application.url}/${site}/${path}`);
  await browser.find('h1');
  await browser.settled();
};
const hold = async (card: string, reader: string) => {
  await browser.on(`[data-card=${card}]`, (e) => e.click());
  await browser.on(`[data-reader=${reader}]`, (e) => e.click());
  await browser.find('[data-testid=presented]');
};

try {
  const { login, password } = OPERATORS[1];
  await browser.signIn(application.url, login, password);
  await browser.find('h1');
  site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;

  await go('read', 'chart-room', true);
  await hold('unlabelled-1', 'boat-shed-outside');
  await save('rig');
  await browser.on('aside button', (e) => e.click());
  await browser.on('input[placeholder="as on the card"]', (e) => e.sendKeys('118406'));
  await browser.see('print agrees');
  await save('read');
  await browser.click('Accept at a door');
  await browser.onPath('//fieldset//button[.="Boat shed"]', (e) => e.click());
  await browser.see('1 change waiting', '[data-controller=boat-shed]');
  await save('doors');
  await browser.click('Load Boat shed');
  await browser.see('current', '[data-controller=boat-shed]');

  await go('stock?issue=latest');
  await browser.find('option[value="37-16-19"]');
  const holder = await browser.driver.findElement(By.xpath('//option[contains(., "Oline Strand")]'));
  await holder.click();
  await save('stock');
  await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
  await browser.see('Card 2214/118406', '[aria-label="One card"] h2');

  await go('stock/boxes?enter=', 'chart-room', true);
  for (const [name, text] of [
    ['facility', '58'],
    ['first', '10940'],
    ['last', '11039'],
  ] as const)
    await browser.on(`form[aria-label="Enter a box"] [name=${name}]`, (e) => e.sendKeys(text));
  await browser.click('Review');
  await browser.find('[data-testid=review]');
  await save('boxes');

  await go('stock/people', 'night-watch');
  await browser.onPath('//a[.="Isak Fjelde"]', (e) => e.click());
  await browser.find('[data-testid=week-words]');
  await save('people-dark');
  await go('doors/passing');
  await browser.onPath('//nav[@aria-label="Doors"]//a[contains(., "Gear store")]', (e) => e.click());
  await browser.find('[data-testid=week-words]');
  await save('passing');

  await go('formats/35-12-20');
  await save('formats');
  await go('formats/26-8-16?view=edit');
  const line = await browser.find('[data-testid=layout-line]');
  await line.sendKeys(Key.chord(Key.CONTROL, 'a'), '26 | 1 even 2-12 | 2-8 facility | 9-25 number | 26 odd 14-25');
  await browser.see('usual is 2-13', '[data-testid=checks]');
  await browser.on('input[placeholder^="data sheet, finding"]', (e) => e.sendKeys('label of the new box'));
  await browser.click('Show what it would do');
  await browser.see('let in as it is set up now', 'section[aria-label="Dry run"]');
  await save('dry-run');
  await go('formats/37-16-19?view=sheet', 'night-watch');
  await save('settings-sheet-dark');
  await go('formats?part=numbers');
  for (const [i, [a, b]] of [
    ['473670148', '04A23B1C'],
    ['2421107741', '1D2C4F90'],
    ['3569595041', 'A1B2C3D4'],
  ].entries()) {
    await browser.on(`input[aria-label="Row ${i + 1}, first device"]`, (e) => e.sendKeys(a!));
    await browser.on(`input[aria-label="Row ${i + 1}, second device"]`, (e) => e.sendKeys(b!));
  }
  await browser.see('bytes reversed', '[data-testid=explanations]');
  await save('two-numbers');
  await go('identify');
  await browser.click('The boat shed');
  await browser.see('118442', '[data-testid=predictions]');
  await browser.settled();
  await save('identify');
  await go('read', 'night-watch', true);
  await hold('bad-copy', 'main-entrance');
  await browser.on('aside button', (e) => e.click());
  await save('read-dark');
  await go('trail');
  await browser.click('Verify the record');
  await browser.see('as they were written');
  await save('trail');

  const [custodian] = CUSTODIANS;
  await browser.driver.manage().deleteAllCookies();
  await browser.signIn(application.url, custodian!.login, custodian!.password);
  await go('keys');
  await browser.on('form[aria-label="Unlock"] input', (e) => e.sendKeys(PASSPHRASE, Key.ENTER));
  await browser.see('The key store is open');
  await browser.onPath('//a[contains(., "Door number")]', (e) => e.click());
  await browser.see('Rolling over to version 2');
  await save('keys');
  await go('encode');
  await browser.see('Proven');
  await browser.onPath('//label[contains(., "Dive office")]//input', (e) => e.click());
  await browser.on('[aria-label^="File 1, credential"]', (e) => e.click());
  await browser.settled();
  await save('encode-plan');
  await go('encode?part=runs', 'night-watch', true);
  await browser.onPath('//button[normalize-space(.)="Start"]', (e) => e.click());
  await browser.see('Waits for blank');
  for (const blank of ['smart-blank', 'smart-blank-2']) {
    await browser.on(`#tray-${blank}`, (e) => e.click());
    await browser.on('[data-pad]', (e) => e.click());
    await browser.see('Encoded and verified');
    if (blank === 'smart-blank') await browser.onPath('//button[.="take off"]', (e) => e.click());
    await browser.settled();
  }
  await browser.onPath('(//button[.="what was done"])[1]', (e) => e.click());
  await browser.settled();
  await browser.onPath('(//summary[contains(., "write file")])[1]', (e) => e.click());
  await save('encode-run-dark');

  await browser.driver.manage().deleteAllCookies();
  await browser.signIn(application.url, OPERATORS[0].login, OPERATORS[0].password);
  await go('operators');
  await browser.onPath('//tr[contains(., "Aslaug Rein")]//button[.="Disable account"]', (e) => e.click());
  await browser.see('Disable the account of Aslaug Rein');
  await save('operators');
  await go('site', 'night-watch');
  await save('site-dark');
} finally {
  await browser.close();
  await application.close();
}
