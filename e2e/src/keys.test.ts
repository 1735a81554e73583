/** Two custodians make a key of components, roll one over, back the keys up, rehearse the restore; the store locks. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { doorApi, planApi, readerPlanApi } from '@rawbits/api';
import { bytesOf } from '@rawbits/core/cipher';
import { checkValueOf, combined } from '@rawbits/core/key';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Client } from '../../demo/src/client.ts';
import { CUSTODIANS, PASSPHRASE } from '../../demo/src/keys.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

const TYPED = 'C0FFEEAD0BE5A11F00DDEC0DEBEEF5A1';
const FIRST = 'herring rope lantern slate';
const SECOND = 'osprey tide barrel copper';

describe('two key custodians', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-downloads-'));
  const [one, two] = CUSTODIANS;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    await (browser.driver as unknown as { setDownloadPath(path: string): Promise<void> }).setDownloadPath(folder);
    await signIn(one!);
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
  });
  afterAll(async () => {
    await application?.close();
    rmSync(folder, { recursive: true, force: true });
  });
  const signIn = async ({ login, password }: (typeof CUSTODIANS)[number]) => {
    await browser.driver.manage().deleteAllCookies();
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
  };
  const go = async (path = 'keys') => {
    await browser.move(`${application.url}/${site}/${path}`);
  };
  const type = (css: string, text: string) => browser.on(css, (e) => e.sendKeys(text));
  const choose = (words: string) => browser.onPath(`//a[contains(., "${words}")]`, (e) => e.click());
  const toForm = (form: string, name: string) => `[aria-label="${form}"] input[name="${name}"]`;

  it('a wrong passphrase is told, the right one opens the store', async () => {
    await go();
    await browser.see('The key store is locked');
    await type(toForm('Unlock', 'passphrase'), `not the right one${Key.ENTER}`);
    await browser.see('The passphrase is not right.');
    await type(toForm('Unlock', 'passphrase'), `${PASSPHRASE}${Key.ENTER}`);
    await browser.see('The key store is open');
    await browser.see(`by ${one!.name}`, '[aria-label="Key store"]');
  });

  let component: string;
  it('the first begins a key of components, makes hers and has its sheet', async () => {
    await browser.click('New key');
    await type(toForm('New key', 'name'), 'Fuel dock');
    await browser.onPath('//label[contains(., "From components")]//input', (e) => e.click());
    await browser.click('Add the key');
    await browser.see('Version 1 is put together from 2 components');
    await browser.driver.executeScript(() => {
      (window as unknown as { printed: number }).printed = 0;
      window.print = () => void (window as unknown as { printed: number }).printed++;
    });
    await browser.click('Make mine and print it');
    await browser.see('Component 1 of 2', '[aria-label="Component sheet"]');
    const sheet = await browser.textOf('[aria-label="Component sheet"]');
    component = /Component\n([0-9A-F ]+)\n/.exec(sheet)![1]!.replaceAll(' ', '');
    expect(sheet).toContain(checkValueOf('aes128', bytesOf(component, 'key')));
    expect(sheet).toContain(`Custodian\n${one!.name}`);
    await browser.click('Print');
    expect(await browser.driver.executeScript<number>(() => (window as unknown as { printed: number }).printed)).toBe(
      1,
    );
    await browser.click('I have it');
    await browser.see('Yours is in');
    expect(await browser.textOf('body')).not.toContain(component.slice(0, 4));
  });

  it('the second types his, and the key is there, by its check value alone', async () => {
    await signIn(two!);
    await go();
    await choose('Fuel dock');
    await browser.see('waits for another custodian');
    expect(await browser.textOf('body')).not.toContain(component.slice(0, 4));
    await browser.click('Type mine from a sheet');
    await type(toForm('My component', 'hex'), TYPED);
    await type(toForm('My component', 'check'), '000000');
    await browser.click('Give it');
    await browser.see('not 000000');
    const check = await browser.find(toForm('My component', 'check'));
    await check.sendKeys(Key.chord(Key.CONTROL, 'a'), checkValueOf('aes128', bytesOf(TYPED, 'key')));
    await browser.click('Give it');
    await browser.see('in use', '[aria-label="Key Fuel dock"]');
    const whole = combined([bytesOf(component, 'a'), bytesOf(TYPED, 'b')]);
    await browser.see(checkValueOf('aes128', whole), '[aria-label="Key Fuel dock"]');
  });

  it('axe finds nothing serious in what a custodian sees, in the dark theme', async () => {
    await browser.driver.executeScript(() =>
      localStorage.setItem('rawbits.settings', JSON.stringify({ theme: 'night-watch', rigOpen: false })),
    );
    await browser.driver.navigate().refresh();
    await browser.find('h1');
    await go('keys?part=backups');
    expect(await browser.violations()).toEqual([]);
    await go();
    await browser.click('New key');
    await browser.onPath('//label[contains(., "Typed")]//input', (e) => e.click());
    expect(await browser.violations()).toEqual([]);
    await go();
    await choose('Fuel dock');
  });

  it('a key is rolled over: a new version, then put in use', async () => {
    await browser.click('New version');
    await browser.click('Add the version');
    await browser.see('ready', '[aria-label="Key Fuel dock"]');
    await browser.onPath('//tr[td[1]="2"]//button[.="Put in use"]', (e) => e.click());
    await browser.see('Rolling over to version 2.');
    await browser.see('it can be destroyed', '[aria-label="Key Fuel dock"]');
  });

  it('a key that the second asked for is shown to him once the first agrees', async () => {
    await signIn(one!);
    await go();
    await browser.see('Uncover key Staff cards / Dive log, write', '[aria-label="Waiting for a second custodian"]');
    await browser.click('Agree');
    await browser.see('to be looked at until');
    await signIn(two!);
    await go();
    await browser.click('Show the key, once');
    await browser.see('this is the only time that its key is shown');
    expect(await browser.textOf('[role=status] code')).toMatch(/^([0-9A-F]{4} ){7}[0-9A-F]{4}$/);
    await browser.click('I have it');
    await go('keys?part=holders');
    await browser.see('saw it', '[aria-label="Who holds what"]');
  });

  it('both back the keys up, each with a part of the passphrase, and rehearse the restore', async () => {
    await go('keys?part=backups');
    await type(toForm('Make a backup', 'part'), FIRST);
    await type(toForm('Make a backup', 'reason'), 'the monthly one, for the safe');
    await browser.click('Ask a second custodian');
    await browser.see('It waits for another custodian');
    await signIn(one!);
    await go('keys?part=backups');
    await type('input[aria-label^="Second part of the backup"]', SECOND);
    await browser.click('Agree');
    await browser.see(`${two!.name}, then ${one!.name}`);
    await browser.click('Download');
    await expect.poll(() => readdirSync(folder).filter((n) => n.endsWith('.jwe'))).toHaveLength(1);
    const file = join(folder, readdirSync(folder)[0]!);
    expect(readFileSync(file, 'utf8').split('.')).toHaveLength(5);
    await type('[aria-label="Rehearse a restore"] input[type=file]', file);
    await type(toForm('Rehearse a restore', 'first'), SECOND);
    await type(toForm('Rehearse a restore', 'second'), FIRST);
    await browser.click('Rehearse');
    await browser.see('The backup does not open.');
    for (const [name, part] of [
      ['first', FIRST],
      ['second', SECOND],
    ] as const)
      await browser.on(toForm('Rehearse a restore', name), (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), part));
    await browser.click('Rehearse');
    await browser.see('14 keys opened. 14 are the same here');
    await browser.see(`${one!.name}, `, '[aria-label="Backups made"] td:nth-child(4)');
  });

  it('a reader that a technician sets up waits until a custodian agrees by a click, and is set up then', async () => {
    const technician = new Client(application.url);
    await technician.signIn(OPERATORS[1].login, OPERATORS[1].password);
    const plan = (await technician.ask(planApi.list, { site })).find(({ name }) => name === 'Staff card')!;
    const reader = (await technician.ask(doorApi.readers, { site })).find(({ kind }) => kind === 'door')!;
    const at = { in: 'file', application: '5A1001', file: 1, field: 'string' } as const;
    const setUp = () =>
      technician.ask(readerPlanApi.set, { site, id: reader.id }, { planId: plan.id, at, bits: 26 }).then(
        () => 'set up',
        (error: Error) => error.message,
      );
    expect(await setUp()).toContain('A key custodian must agree first');
    await signIn(one!);
    await go();
    const waiting = '[aria-label="New uses of keys"]';
    await browser.see(reader.name, waiting);
    await browser.click('Agree');
    await browser.gone(waiting);
    expect(await setUp()).toBe('set up');
  });

  it('what a custodian who leaves knows is told, and locking ends what can be done', async () => {
    await go('keys?part=holders');
    await browser.onPath(`//th//label[contains(., "${one!.name}")]`, (e) => e.click());
    await browser.see('Supplier’s transport key, version 1', '[aria-label="If it leaks"]');
    expect(await browser.textOf('[aria-label="If it leaks"]')).not.toContain('Card master');
    await browser.onPath(`//th//label[contains(., "${two!.name}")]`, (e) => e.click());
    await browser.see('Card master, version 1 (by their components together)', '[aria-label="If it leaks"]');
    await browser.click('Lock');
    await browser.see('The key store is locked');
    await go();
    expect(await (await browser.find('button[title="Unlock the key store first"]')).isEnabled()).toBe(false);
  });

  it('the key of a card is shown step by step, as published', async () => {
    await go('keys?part=diversify');
    await browser.see('A8DD 63A3 B89D 54B3 7CA8 0247 3FDA 9175', '[aria-label="Step by step"]');
    await browser.on('[aria-label="What goes in"] select', (e) => e.sendKeys('3DES, two keys'));
    await browser.see('have 17 bytes together; 1 to 15', '[aria-label="What goes in"]');
  });

  it('nothing of a key or passphrase is left in the browser’s storage', async () => {
    const kept = await browser.driver.executeScript<string>(() =>
      JSON.stringify([{ ...localStorage }, { ...sessionStorage }]),
    );
    for (const secret of [component, TYPED, FIRST, SECOND, PASSPHRASE]) expect(kept).not.toContain(secret);
    expect(kept).toContain('rawbits');
  });
});
