/** What is in the hand stays in the hand: reads, forms, sessions that end, views that fail, specimens in sight. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import type { Driver } from 'selenium-webdriver/chrome.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, By, Key } from './browser.ts';

/** The edges of a read as a logic analyser lists them. */
const recorded = (binary: string): string =>
  [...binary].flatMap((bit, i) => [`${i * 1000} us D${bit} fall`, `${i * 1000 + 50} us D${bit} rise`]).join('\n');

describe('what is in the hand', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  let colleague: string;
  const { login, password } = OPERATORS[0];
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    await browser.signIn(application.url, login, password);
    await browser.find('h1');
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
    const signedIn = await fetch(`${application.url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ login: OPERATORS[1].login, password: OPERATORS[1].password }),
    });
    colleague = signedIn.headers.get('set-cookie')!.split(';')[0]!;
  });
  afterAll(async () => {
    await application?.close();
  });
  const asColleague = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
    const response = await fetch(`${application.url}/api/sites/${site}${path}`, {
      method,
      headers: { cookie: colleague, 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    return (await response.json()) as T;
  };
  /** A colleague holds a card to a door. */
  const elsewhere = async (card: string) => {
    const readers = await asColleague<{ id: string; device: string }[]>('GET', '/readers');
    const reader = readers.find((r) => r.device === 'main-entrance')!.id;
    await asColleague('POST', '/rig/presentations', { card, reader });
  };
  const go = async (path: string) => {
    await browser.move(`${application.url}/${site}/${path}`);
  };
  const fieldValue = async (css: string) => browser.on(css, (e) => e.getAttribute('value'));
  const type = (name: string, text: string) =>
    browser.on(`form[aria-label="Issue a card"] input[name="${name}"]`, (e) => e.sendKeys(text));

  it('a colleague’s card at another door changes neither the form nor the print being typed', async () => {
    await elsewhere('stock-10902');
    await go('stock?issue=latest');
    await browser.see('26 bits, 8 + 16', 'form p');
    await type('printed', '10902 by hand');
    await elsewhere('isak');
    await browser.see('A later read came in from Main entrance', '[data-testid=later-read]');
    expect(await fieldValue('input[name=number]')).toBe('10902');
    expect(await fieldValue('input[name=printed]')).toBe('10902 by hand');
    await browser.click('use the later one');
    await browser.see('34 bits', 'form p');
    expect(await fieldValue('input[name=number]')).toBe('20417');

    await go('read');
    await browser.see('34 bits from Main entrance', 'h1');
    await browser.on('input[placeholder="as on the card"]', (e) => e.sendKeys('2041'));
    await elsewhere('ragna');
    await browser.see('A later read waits: 26 bits', '[data-testid=later-read]');
    expect(await browser.textOf('h1')).toContain('34 bits');
    expect(await fieldValue('input[placeholder="as on the card"]')).toBe('2041');
    await browser.click('take it');
    await browser.see('26 bits from Main entrance', 'h1');
  });

  it('a form outlives a reload with its read; what a colleague saves meanwhile stands beside what was typed', async () => {
    await elsewhere('stock-10902');
    await go('stock?issue=latest');
    // What was typed for this card before.
    await browser.see('What you typed here', '[data-testid=draft]');
    await browser.click('Begin afresh');
    await type('printed', 'half');
    await elsewhere('isak');
    await browser.driver.navigate().refresh();
    await browser.see('What you typed here', '[data-testid=draft]');
    await browser.see('A later read came in from Main entrance', '[data-testid=later-read]');
    expect([await fieldValue('input[name=number]'), await fieldValue('input[name=printed]')]).toEqual([
      '10902',
      'half',
    ]);
    await browser.click('Cancel');

    const { cards } = await asColleague<{ cards: { id: string; revision: number }[] }>(
      'GET',
      '/cards?state=active&limit=1',
    );
    const [card] = cards as [(typeof cards)[number]];
    await go(`stock/${card.id}`);
    await browser.on('textarea[name=notes]', (e) => e.sendKeys(' typed here'));
    await asColleague('PATCH', `/cards/${card.id}`, { revision: card.revision, notes: 'theirs', printed: 'P-1' });
    await browser.see('theirs is theirs', '[data-testid=theirs]');
    expect(await fieldValue('input[name=printed]')).toBe('P-1');
    expect(await fieldValue('textarea[name=notes]')).toContain('typed here');
    await browser.click('Keep yours');
    await browser.on('form[aria-label^="Card"] button[type=submit]', (e) => e.click());
    await browser.gone('[data-testid=theirs]');
    await browser.see('changed the notes', '[aria-label=History]');
    expect((await asColleague<{ notes: string }>('GET', `/cards/${card.id}`)).notes).toContain('typed here');
  });

  it('with no network what is pasted is shown and waits; it is kept once, when the network is back', async () => {
    await go('read');
    const network = (offline: boolean) =>
      (browser.driver as Driver).setNetworkConditions({
        offline,
        latency: 0,
        download_throughput: -1,
        upload_throughput: -1,
      });
    const bits = '01011100110101110011010111001101011';
    const kept = async () =>
      (await asColleague<{ bits: string }[]>('GET', '/reads?limit=20')).filter((read) => read.bits === bits).length;
    await network(true);
    await browser.on('h1', (e) => e.click());
    await browser.paste(bits);
    await browser.see('35 bits from a paste', 'h1');
    await browser.see('1 read waits', '[data-testid=away]');
    expect(await kept()).toBe(0);
    await network(false);
    await browser.gone('[data-testid=away]');
    await expect.poll(kept).toBe(1);
    await browser.driver.navigate().refresh();
    // What was in hand is in hand still, and nothing is sent again.
    await browser.see('35 bits from a paste', 'h1');
    await browser.settled();
    expect(await kept()).toBe(1);
  });

  it('a read that is kept in hand stays there, and only chosen readers bring theirs by themselves', async () => {
    await go('read');
    await elsewhere('ragna');
    await browser.see('26 bits from Main entrance', 'h1');
    await browser.click('keep in hand');
    await elsewhere('isak');
    await browser.see('A later read waits: 34 bits', '[data-testid=later-read]');
    expect(await browser.textOf('h1')).toContain('26 bits');
    await browser.click('take it');
    await browser.see('34 bits', 'h1');
    await browser.on('header summary', (e) => e.click());
    await browser.onPath('//header//fieldset//label[contains(., "Boat shed")]', (e) => e.click());
    await browser.see('from Boat shed, outside', 'header');
    await elsewhere('ragna');
    // It stands in the history, and nowhere else.
    const newest = async () => (await browser.textOf('[aria-label="Reads kept"]')).split('\n')[3];
    await expect.poll(newest).toBe('26');
    expect(await browser.textOf('h1')).toContain('34 bits');
    await browser.onPath('//header//fieldset//label[contains(., "Boat shed")]', (e) => e.click());
    await browser.see('from every reader', 'header');
  });

  it('a session that ends under a form is signed in again over it, and the form is saved', async () => {
    await go('stock?issue=new');
    await type('number', '777');
    await type('facility', '58');
    await type('printed', 'half typed');
    await browser.driver.executeAsyncScript((done: () => void) => {
      void fetch('/api/session', { method: 'DELETE' }).then(done);
    });
    // The page hears of it by itself.
    await browser.see('Your session has ended', 'dialog[open]');
    await browser.on('dialog[open] input[type=password]', (e) => e.sendKeys(password, Key.ENTER));
    await browser.gone('dialog[open]');
    expect(await fieldValue('input[name=printed]')).toBe('half typed');
    await browser.on('form[aria-label="Issue a card"] button[type=submit]', (e) => e.click());
    await browser.see('Card 58/777', '[aria-label="One card"] h2');
    // The live feed is followed again.
    await elsewhere('isak');
    await browser.see('34 bits', 'header');
  });

  it('the newest specimen and its print are in sight, with one, two and eight of them', async () => {
    const cases = await asColleague<{ id: string }[]>('GET', '/cases');
    const whole = await asColleague<{ specimens: object[] }>('GET', `/cases/${cases[0]!.id}`);
    for (const count of [1, 2, 8]) {
      const specimens = whole.specimens.slice(0, count);
      const { id } = await asColleague<{ id: string }>('POST', '/cases', { name: `Of ${count}`, specimens });
      await go(`identify/${id}`);
      await browser.find('[data-testid=verdicts]');
      await browser.settled();
      const inSight = await browser.driver.executeScript<boolean>((row: number) => {
        const input = document.querySelector(`[data-print="${row}"]`)!;
        const { left, top, width, height } = input.getBoundingClientRect();
        return [0.1, 0.9].every((part) => document.elementFromPoint(left + width / 2, top + height * part) === input);
      }, count - 1);
      expect([count, inSight]).toEqual([count, true]);
      expect(await browser.textOf('main')).not.toMatch(/\b\d+ (bits )?proven|\d+ of \d+ bits are proven/);
    }
  });

  it('a span that names no position is refused at its column, and takes nothing away, typed or kept', async () => {
    const line = '26 | 10-11 by 3 to 1 number | 12-25 value "x" | 1 even 2-13';
    await go('formats/26-8-16?view=edit');
    await browser.on('[data-testid=layout-line]', (e) => e.sendKeys(Key.chord(Key.CONTROL, 'a'), line));
    await browser.see('it names no position', 'main');
    await browser.driver.navigate().refresh();
    await browser.see('it names no position', 'main');
    // Beside every field: what is pasted there is a read.
    await browser.on('h1', (e) => e.click());
    await browser.paste('00111010010001111111001001');
    await browser.see('26 bits from a paste', 'h1');
    await browser.see('26 bits, 8 + 16', 'table');
  });

  it('a line with a read in it is the read, and says what was passed over; a damaged frame is refused', async () => {
    await go('read');
    await browser.paste('[14:03:22.113] reader 2: 26 bits 0x28E4694');
    await browser.see('26 bits from a paste', 'h1');
    await browser.see('Passed over: [14:03:22.113] reader 2: 26 bits …', 'main');
    await browser.paste('53 80 0F 00 04 50 00 00 1A 00 A3 91 A5 00 00');
    await browser.see('A byte was changed or lost', '#intake-failure');
    await browser.click('close');
  });

  it('a recorded line is the read that a receiver makes of it, with its pulses', async () => {
    await go('read');
    await browser.paste(recorded('00111010010001111111001001'));
    await browser.see('26 bits from a paste', 'h1');
    await browser.see('26 pulses, 50 µs wide, 1000 µs apart', '[aria-label="Pulses of the line"]');
    await browser.see('26 bits, 8 + 16', 'table');
    expect(await browser.violations()).toEqual([]);
  });

  it('several lines are several reads: looked through, then taken all at once', async () => {
    await go('read');
    await browser.paste('28E4694 26 bits\n071,09034\nno read at all\n04 A2 3B 1C');
    await browser.see('4 lines, each a read of its own', 'dialog');
    await browser.see('3 can be taken; 1 cannot', 'dialog');
    await browser.see('belongs to no notation of a read', 'dialog');
    expect(await browser.violations()).toEqual([]);
    // Another paste changes nothing under the hand.
    await browser.paste('28E4695 26 bits');
    await browser.click('Take the 3 reads');
    await browser.see('3 reads taken', '[role=status]');
    const newest = await asColleague<{ bits: string }[]>('GET', '/reads?limit=3');
    expect(newest.map(({ bits }) => bits.length)).toEqual([32, 24, 26]);
  });

  it('a print is held against every reading of the text; where none gives it, one click starts a case', async () => {
    await go('read');
    await browser.paste('uid: 02 8E 46 95');
    await browser.see('32 bits from a paste', 'h1');
    await browser.on('[data-search]', (e) => e.sendKeys('777'));
    await browser.see('Start a case with this read', 'main');
    await browser.on('h1', (e) => e.click());
    // A format of the library that the station has not in use.
    const bits = encode(catalogued('33-7-24')!, { facility: '12', number: '9214711' });
    await browser.paste(bits.toHex());
    await browser.see('bits from a paste', 'h1');
    await browser.on('[data-search]', (e) => e.sendKeys('9214711'));
    await browser.see('the print', 'main');
    await browser.click('Read it so');
    await browser.see('33 bits from a paste', 'h1');
    await browser.see('print agrees', 'main');
    await browser.on('[data-search]', (e) => e.sendKeys('1'));
    await browser.click('Start a case with this read');
    await browser.find('[data-print="0"]');
    expect(await browser.driver.getCurrentUrl()).toContain('/identify/');
  });

  it('a view that cannot be shown says so in plain words, and the others work', async () => {
    await browser.driver.get(`${application.url}/api`);
    await browser.driver.executeAsyncScript((of: string, done: () => void) => {
      const spoil = ({ operator }: { operator: { id: string } }) =>
        localStorage.setItem(
          'rawbits.drafts',
          JSON.stringify({ [`${operator.id} ${of} 26-8-16`]: { line: 7, past: 0 } }),
        );
      void fetch('/api/session')
        .then((answer) => answer.json())
        .then(spoil)
        .then(done);
    }, site);
    await browser.driver.get(`${application.url}/${site}/formats/26-8-16?view=edit`);
    await browser.see('This view could not be shown', '[data-testid=view-failed]');
    await browser.click('Stock');
    await browser.see('on file', 'main');
    await browser.driver.executeScript(() => localStorage.removeItem('rawbits.drafts'));
  });

  it('a smart card on the pad says what it is; two are told; what lies there lies there after a reload', async () => {
    await go('read');
    if ((await browser.driver.findElements(By.css('[data-pad]'))).length === 0)
      await browser.on('aside button[aria-expanded]', (e) => e.click());
    await browser.on('[data-card=smart-staff]', (e) => e.click());
    await browser.on('[data-card=smart-staff]', (e) => e.sendKeys('0'));
    await browser.see('File-system card, generation 2', '[data-testid=pad]');
    expect(await browser.textOf('[data-testid=pad]')).toMatch(/UID\s+04631D92A87080[\s\S]+applications\s+none/);
    await browser.on('[data-card=dive-band]', (e) => e.click());
    await browser.click('lay the chosen one beside it');
    await browser.see('There are two cards on the pad.', '[data-testid=pad]');
    await browser.driver.navigate().refresh();
    await browser.see('There are two cards on the pad.', '[data-testid=pad]');
    await browser.on('[data-card=dive-band]', (e) => e.click());
    await browser.on('[data-pad]', (e) => e.click());
    await browser.see('Sector card, 1K', '[data-testid=pad]');
    await browser.on('[data-card=isak]', (e) => e.click());
    await browser.on('[data-pad]', (e) => e.click());
    await browser.see('has nothing inside that a pad could talk to', 'section[aria-label=Readers]');
    await browser.click('take off');
    await browser.gone('[data-testid=pad]');
    await browser.on('[data-card=slow-fob]', (e) => e.click());
    await browser.on('[data-reader=main-entrance]', (e) => e.click());
    await browser.see('The reader sees nothing', '[data-testid=presented]');
  });
});
