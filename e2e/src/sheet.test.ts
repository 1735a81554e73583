/** A sheet of many cards, twenty of its rows bad: reviewed, entered, the bad ones mended and sent again. */
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isWhole } from '../../core/testing/runs.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, Key } from './browser.ts';

/** Every tenth card is held by somebody. */
const ROWS = isWhole ? 5_000 : 1_000;
const inWords = (count: number) => count.toLocaleString('en');

describe('a sheet of cards', () => {
  let application: Application;
  let browser: Browser;
  let at: string;
  let folder: string;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-sheet-'));
    application = await startApplication();
    browser = await Browser.ofWorker();
    const { login, password } = OPERATORS[1];
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    at = (await browser.driver.getCurrentUrl()).replace(/\/read.*/, '');
  });
  afterAll(async () => {
    await application?.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('its bad rows stay to be mended while the others are entered', async () => {
    const rows = Array.from({ length: ROWS }, (_, i) => {
      const number = i % (ROWS / 20) === 7 ? `${20_000 + i}O` : String(20_000 + i);
      return i % 10 === 0 ? `${number},Visitor ${i / 10},Ferry` : `${number},,`;
    });
    const file = join(folder, 'visitors.csv');
    writeFileSync(file, `card number,name,department\n${rows.join('\n')}\n`);
    await browser.move(`${at}/stock/sheet`);
    await browser.on('input[type=file]', (e) => e.sendKeys(file));
    await browser.see(`and ${inWords(ROWS - 5)} rows more`, '[aria-label=Columns]');
    await browser.on('section[aria-label="Cards from a sheet"] input.font-mono', (e) => e.sendKeys('61'));
    await browser.click(`Review ${inWords(ROWS)} rows`);
    await browser.see(
      `${inWords(ROWS - 20)} cards can be entered: ${inWords(ROWS / 10)} held by somebody, ${inWords(0.9 * ROWS - 20)} in stock`,
      '[data-testid=sheet-review]',
    );
    await browser.see('20 rows cannot', '[data-testid=sheet-review]');
    await browser.see('row 9', '[aria-label="Rows that cannot be entered"]');
    await browser.click(`Enter ${inWords(ROWS - 20)} cards`);
    // The twenty are what the sheet is now: mended in place, they are sent again.
    await browser.see('and 15 rows more', '[aria-label=Columns]');
    const text = (await browser.on('textarea', (e) => e.getAttribute('value'))) ?? '';
    expect(text).toContain('20007O');
    await browser.on('textarea', (e) =>
      e.sendKeys(Key.chord(Key.CONTROL, 'a'), text.replace(/O(?=,)/g, '').replace(/\r/g, '')),
    );
    await browser.click('Review 20 rows');
    await browser.see('20 cards can be entered', '[data-testid=sheet-review]');
    await browser.click('Enter 20 cards');
    await browser.gone('[aria-label=Columns]');
    await browser.move(`${at}/stock?search=61%2F20007`);
    await browser.see('1 card found', 'main');
  });

  it('people come from a sheet, whom it means asked rather than guessed; their badges go out as PDF and SVG', async () => {
    await (browser.driver as unknown as { setDownloadPath(path: string): Promise<void> }).setDownloadPath(folder);
    const file = join(folder, 'guests.csv');
    const kept = (await browser.driver.executeAsyncScript(
      (site: string, done: (people: { name: string; department: string }[]) => void) => {
        void fetch(`/api${site}/people-sheet?limit=1`)
          .then((answer) => answer.json())
          .then(({ people }) => done(people));
      },
      new URL(at).pathname.replace(/^/, '/sites'),
    )) as { name: string; department: string }[];
    const [known] = kept;
    writeFileSync(
      file,
      [
        'full name,dept.,category,e-mail,access groups',
        'Torunn Lie,Dock,guest,lie@example.org,Wet labs',
        'Eivind Moe,Dock,guest,,No such group',
        `${known!.name},Another place,,,`,
        `${known!.name},${known!.department},,cabin 4,`,
      ].join('\n'),
    );
    await browser.move(`${at}/stock/people/sheet`);
    await browser.on('input[type=file]', (e) => e.sendKeys(file));
    await browser.click('Review 4 rows');
    await browser.see('1 person new: Torunn Lie', '[data-testid=people-review]');
    await browser.see('1 changed', '[data-testid=people-review]');
    await browser.see('cabin 4', '[aria-label="What changes"]');
    await browser.see('row 3 No access group is called No such group', '[aria-label="Rows that cannot be entered"]');
    await browser.see('and not of Another place', '[aria-label="Rows that cannot be entered"]');
    await browser.see('Torunn Lie', '[aria-label=Gains]');
    await browser.click('Enter 2 people');
    // What could not be is what the sheet is now.
    await browser.see('Review 2 rows');
    await browser.move(`${at}/stock/people`);
    await browser.on('[aria-label="Only this kind"]', (e) => e.sendKeys('guest'));
    await browser.until(async () => !(await browser.textOf('table')).includes(known!.name));
    await browser.click('Badges');
    await browser.see('Torunn Lie', 'figcaption');
    expect(await browser.textOf('[aria-label="How they look"]')).toContain('1 badge');
    for (const [button, ending] of [
      ['PDF', '.pdf'],
      ['SVG', '.svg'],
    ] as const) {
      await browser.onPath(`//section[@aria-label="How they look"]//button[.="${button}"]`, (e) => e.click());
      const path = join(folder, `badge of Torunn Lie${ending}`);
      await browser.until(async () => existsSync(path), `no ${ending} was kept`);
      const text = readFileSync(path, 'latin1');
      // A page of the size of a card (ISO/IEC 7810, ID-1), in points; and the same in millimetres.
      expect(text).toMatch(ending === '.pdf' ? /^%PDF-1/ : /width="85.6mm" height="53.98mm"/);
    }
    expect(await browser.violations()).toEqual([]);
  });

  it('card after card held to a reader comes into the sheet once, its print beside it', async () => {
    await browser.move(`${at}/stock/sheet`);
    await browser.find('h1');
    await browser.press('g');
    await browser.click('Present card after card');
    const hold = async (card: string) => {
      await browser.on(`[data-card=${card}]`, (e) => e.click());
      await browser.on('[data-reader=desk-pad]', (e) => e.click());
    };
    await browser.find('[data-card]');
    const cards = (await browser.driver.executeScript(() =>
      [...document.querySelectorAll<HTMLElement>('[data-card]')].map((card) => card.dataset.card),
    )) as string[];
    await hold(cards[0]!);
    await browser.see('58/10233 is in the list. 1 in the list.', '[data-testid=presenting]');
    await browser.on('[data-testid=presenting] input', (e) => e.sendKeys('10234'));
    await browser.see('one of the two is of another card', '[data-testid=presenting]');
    await hold(cards[1]!);
    await browser.see('58/10871 is in the list. 2 in the list.', '[data-testid=presenting]');
    await hold(cards[0]!);
    await browser.see('58/10233 stands in row 2 already. 2 in the list.', '[data-testid=presenting]');
    expect(await browser.on('textarea', (e) => e.getAttribute('value'))).toContain('58,10233,10234');
    expect(await browser.violations()).toEqual([]);
  });
});
