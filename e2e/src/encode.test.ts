/**
 * The staff card of the station, from its plan to a door that opens and back to a blank: what is proven of it, one assertion
 * broken on purpose, five encoded, one of them torn away; its key rolled over where the card is presented; handed back.
 */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Client } from '../../demo/src/client.ts';
import { agreeToUses, PASSPHRASE } from '../../demo/src/keys.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

const BLANKS = ['smart-blank', 'smart-blank-2', 'smart-blank-3', 'smart-blank-4', 'smart-blank-5'];

describe('the staff card', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    const { login, password } = OPERATORS.find(({ login: one }) => one === 'aslaug')!;
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
    await browser.driver.executeScript(() =>
      localStorage.setItem('rawbits.settings', JSON.stringify({ theme: 'chart-room', rigOpen: true })),
    );
    await browser.driver.navigate().refresh();
    await browser.find('h1');
    await go('keys');
    await browser.on('form[aria-label="Unlock"] input', (e) => e.sendKeys(PASSPHRASE, Key.ENTER));
    await browser.see('The key store is open');
  });
  afterAll(async () => {
    await application?.close();
  });
  const go = async (path: string) => {
    await browser.move(`${application.url}/${site}/${path}`);
  };
  const exactly = (words: string) => browser.onPath(`//button[normalize-space(.)="${words}"]`, (e) => e.click());
  const select = async (label: string, words: string) =>
    browser.onPath(
      `(//label[normalize-space(.)="${label}"]/following-sibling::select)[1]/option[contains(., "${words}")]`,
      (e) => e.click(),
    );
  const lay = async (card: string) => {
    await browser.on(`#tray-${card}`, (e) => e.click());
    await browser.on('[data-pad]', (e) => e.click());
  };
  const takeOff = () => browser.onPath('//button[.="take off"]', (e) => e.click());
  const present = async (card: string, words: string) => {
    await browser.on(`#tray-${card}`, (e) => e.click());
    await browser.on('[data-reader="main-entrance"]', (e) => e.click());
    await browser.see(words, '[data-testid="presented"]');
  };
  /** What other stories go through with the mouse, done at once. */
  const ask = (method: string, path: string, body?: unknown): Promise<any> =>
    browser.driver.executeAsyncScript(
      (m: string, url: string, sent: string | null, done: (answer: unknown) => void) => {
        const headers = { 'content-type': 'application/json' };
        void fetch(url, { method: m, headers, ...(sent !== null && { body: sent }) })
          .then((answer) => answer.json())
          .then(done);
      },
      method,
      `/api/sites/${site}${path}`,
      body === undefined ? null : JSON.stringify(body),
    );

  it('what must stay true of it is proven', async () => {
    await go('encode');
    await browser.see('every state gone through');
    const reach = await browser.textOf('[aria-label="Reach"]');
    expect(reach.match(/Proven:/g)).toHaveLength(5);
    expect(reach).not.toContain('Broken');
    expect(await browser.violations()).toEqual([]);
  });

  it('broken on purpose, it says who and how, and the way is played on a simulated card', async () => {
    await browser.on('[aria-label^="File 0, dives"]', (e) => e.click());
    await select('Write', 'everybody');
    await browser.see('Broken:', '[aria-label="Reach"]');
    await browser.see('can, in 2 steps', '[aria-label="Reach"]');
    await exactly('See how');
    await exactly('Play it on a simulated card');
    await browser.see('WriteRecord', '[aria-label="Played on a simulated card"]');
    await browser.see('CommitTransaction', '[aria-label="Played on a simulated card"]');
    await exactly('What would it mean?');
    await browser.see('No card carries this plan yet');
    await browser.click('Save as version 2');
    await browser.see('What must stay true does not');
    // What was typed is there after a reload, and is forgotten only on demand.
    await go('encode');
    await browser.see('Changed, not saved');
    await exactly('Forget the change');
    await browser.see('Proven:', '[aria-label="Reach"]');
  });

  it('five are encoded, one after the other; one is torn away and finished when it comes back', async () => {
    await go('encode?part=runs');
    await exactly('Start');
    await browser.see('Waits for blank 1 of 5.');
    await lay(BLANKS[0]!);
    await browser.see('Encoded and verified.', '[data-testid="pad-tells"]');
    await browser.see('1 of 5 verified');
    await takeOff();
    await exactly('tear the next one away');
    await browser.see('torn away while it is written');
    await lay(BLANKS[1]!);
    await browser.see('The card is gone from the pad', '[data-testid="pad-tells"]');
    await browser.see('begun, not finished', '[aria-label="Cards of the run"]');
    await lay(BLANKS[1]!);
    await browser.see('2 of 5 verified');
    for (const [i, blank] of BLANKS.slice(2).entries()) {
      await takeOff();
      await lay(blank);
      await browser.see(`${i + 3} of 5 verified`);
    }
    await browser.see('done, started by');
    const cards = await browser.textOf('[aria-label="Cards of the run"]');
    expect(cards.match(/verified/g)).toHaveLength(5);
    await browser.onPath('(//button[.="what was done"])[2]', (e) => e.click());
    await browser.see('create application 5A1001');
    await browser.onPath('(//summary[contains(., "recognise")])[2]', (e) => e.click());
    await browser.see('SelectApplication');
    await exactly('Play them on a simulated card');
    await browser.see('no answer differs, byte for byte', '[data-testid="played-again"]');
    expect(await browser.violations()).toEqual([]);
  });

  it('read on the pad it says what it is, and nothing of its keys', async () => {
    await go('encode?part=pad');
    await browser.click('Read the card');
    await browser.see('As the plan Staff card, version 1 has it.');
    await browser.see('Skerry Point Marine Station', '[data-testid="looked"]');
    await takeOff();
  });

  it('a reader is set up by the plan, who would be let in is told, and the door opens', async () => {
    // The first number in stock is the one that the first blank was given.
    const { cards } = await ask('GET', '/cards?search=58/30000');
    const holders = await ask('GET', '/cardholders');
    const { id, revision, facility, number } = cards[0];
    await ask('PATCH', `/cards/${id}`, { revision, holderId: holders.cardholders[0].id, state: 'active' });
    const [main] = (await ask('GET', '/controllers')).filter(
      ({ device }: { device: string }) => device === 'main-building',
    );
    await ask('POST', `/controllers/${main.id}/loads`);
    await go('doors');
    await browser.onPath('//li[@data-reader-line="main-entrance"]//button[.="set it up by a plan"]', (e) => e.click());
    await exactly('Set it up');
    // The first time that a key goes to a reader, a custodian agrees who did not ask for it.
    await browser.see('A key custodian must agree first');
    await browser.see('It was asked for.');
    const { login, password } = OPERATORS.find(({ login: one }) => one === 'eirik')!;
    const custodian = new Client(application.url);
    await custodian.signIn(login, password);
    await agreeToUses(custodian, site);
    await exactly('Set it up');
    await browser.see('reads "string" of Staff card', '[data-reader-line="main-entrance"]');
    await browser.onPath('//li[@data-reader-line="main-entrance"]//button[.="who would be let in"]', (e) => e.click());
    await browser.see(`${facility}/${number}`, '[data-testid="would-open"]');
    await browser.see('opened', '[data-testid="would-open"]');
    await present(BLANKS[0]!, 'opened');
  });

  it('the key in a new version: refused at the key, brought along where it is presented, opened again', async () => {
    const sets = await ask('GET', '/keys');
    const key = sets.flatMap(({ keys }: any) => keys).find(({ name }: any) => name === 'Door number');
    await ask('POST', `/keys/${key.id}/versions`, { version: 3, comes: { how: 'made' } });
    await ask('POST', `/keys/${key.id}/versions/3/use`);
    await go('doors');
    await browser.see('another version is in use', '[data-reader-line="main-entrance"]');
    await browser.onPath('//li[@data-reader-line="main-entrance"]//button[.="set it up anew"]', (e) => e.click());
    await exactly('Set it up');
    await browser.see('Door number, version 3', '[data-reader-line="main-entrance"]');
    await present(BLANKS[0]!, 'refused');
    await browser.see('✗ authenticate by key 1', '[aria-label="Last events"]');
    await browser.see('what came was the key of version 2', '[aria-label="Last events"]');
    await go('encode?part=runs');
    await browser.click('Start a run');
    await select('What is to be done', 'Bring cards along');
    await browser.onPath('//label[contains(., "Whatever is held to Main entrance")]//input', (e) => e.click());
    await browser.onPath('//label[contains(., "The rig’s pad")]//input', (e) => e.click());
    await exactly('Start');
    await browser.see('Waits for a card.');
    await present(BLANKS[0]!, 'opened');
    await browser.see('Brought along and verified.');
    await browser.click('End it for good');
    await browser.see('done, started by');
  });

  it('handed back by the harbour office’s key alone it is a blank again', async () => {
    await browser.click('Start a run');
    await select('What is to be done', 'Hand cards back');
    await browser.see('By the grant for');
    await exactly('Start');
    await browser.see('Waits for a card.');
    await lay(BLANKS[0]!);
    await browser.see('Free: it is a blank again.');
    await browser.click('End it for good');
    await browser.see('done, started by');
    await go('encode?part=pad');
    await browser.click('Read the card');
    await browser.see('A blank: it has the factory’s key, and nothing on it.');
  });

  it('a fob by its plan: whoever reads it can copy it, and it opens what it is allowed to', async () => {
    await takeOff();
    await go('encode');
    await browser.onPath('//select/option[contains(., "Workboat fob")]', (e) => e.click());
    await browser.see('nobody, for good', '[aria-label="Blocks of the tag"]');
    await browser.onPath('//button[contains(., "copy what it sends onto another tag")]', (e) => e.click());
    await exactly('Play it on a simulated card');
    await browser.see('send its blocks', '[aria-label="Played on a simulated card"]');
    await go('encode?part=runs');
    await browser.click('Start a run');
    await select('By the plan', 'Workboat fob');
    await select('Which cards', 'the next numbers kept for encoding');
    await select('Of the format', '26');
    const field = (label: string) => `//label[normalize-space(.)="${label}"]/following-sibling::input`;
    await browser.onPath(field('Facility code'), (e) => e.sendKeys('58'));
    await browser.onPath(field('How many'), (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), '1'));
    await exactly('Start');
    await browser.see('Waits for blank 1 of 1.');
    await lay('blank-fob-1');
    await browser.see('done, 1 of 1');
    await browser.onPath('(//button[.="what was done"])[1]', (e) => e.click());
    await browser.see('lock block 3 of the tag');
    await go('encode?part=pad');
    await browser.click('Read the card');
    await browser.see('As the plan Workboat fob, version 1 has it.');
    expect(await browser.violations()).toEqual([]);
  });
});
