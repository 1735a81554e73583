/** Headless Chromium through Debian's driver, with what the stories need: waiting for words, keys, dragging. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AxeResults } from 'axe-core';
import { Builder, By, error, Key, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';
import { noteSession } from './driver.ts';

export { By, Key };

const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--disable-dev-shm-usage',
  // Pages of one application in one process, and none kept for going back: what was compiled stays.
  '--process-per-site',
  '--disable-features=BackForwardCache',
  '--hide-scrollbars',
  '--lang=en',
];
/** How long a busy machine may take; nothing that comes sooner waits for it. */
const WAIT_MS = 60_000;
/** How often is asked what cannot be waited for in the page. */
const POLL_MS = 40;
/** How long nothing of a page changes before it counts as settled. */
const QUIET_MS = 150;
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/**
 * A script that waits in the page, so that nothing has to be asked over and over from outside: `condition` is looked at again
 * and again, the less often the longer a look takes. Answers whether it came to hold.
 */
const waitingScript = (condition: (...args: never[]) => boolean, withinMs: number) => `
  const done = arguments[arguments.length - 1];
  const args = [...arguments].slice(0, -1);
  const condition = ${condition.toString()};
  const began = performance.now();
  const look = () => {
    const before = performance.now();
    const holds = condition(...args);
    const now = performance.now();
    if (holds || now - began >= ${withinMs}) done(holds);
    else setTimeout(look, Math.max(25, 6 * (now - before)));
  };
  look();
`;

/** Once more while what was found is drawn anew or something still lies over it. */
async function again<T>(act: () => Promise<T>): Promise<T> {
  const began = Date.now();
  for (let tries = 1; ; tries++) {
    try {
      return await act();
    } catch (thrown) {
      const passing =
        thrown instanceof error.StaleElementReferenceError || thrown instanceof error.ElementClickInterceptedError;
      if (!passing || Date.now() - began > WAIT_MS) throw thrown;
      await new Promise((resolve) => setTimeout(resolve, Math.min(60 * tries, 500)));
    }
  }
}

/** The browser of this worker, once it was asked for. */
let workers: Promise<Browser> | undefined;

export class Browser {
  /** How many keys were pressed; a chord is one. */
  pressed = 0;

  private constructor(
    readonly driver: WebDriver,
    private readonly profile: string,
  ) {}

  /** The browser of this worker, as a new one would be: opened at the first call, cleared at each later one. */
  static async ofWorker(): Promise<Browser> {
    const url = process.env.RAWBITS_CHROMEDRIVER!;
    if (workers) await (await workers).clear();
    else
      workers = Browser.open(url).then(async (browser) => {
        noteSession((await browser.driver.getSession()).getId(), browser.profile);
        return browser;
      });
    return workers;
  }

  /** A browser of its own; through a driver that runs, or one that it starts. */
  static async open(driverUrl?: string, width = 1280, height = 800): Promise<Browser> {
    const profile = mkdtempSync(join(tmpdir(), 'rawbits-chromium-'));
    const options = new Options();
    options.addArguments(...FLAGS, `--user-data-dir=${profile}`, `--window-size=${width},${height}`);
    options.setChromeBinaryPath('/usr/bin/chromium');
    const builder = new Builder().forBrowser('chrome').setChromeOptions(options);
    const driver = await (driverUrl
      ? builder.usingServer(driverUrl)
      : builder.setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
    ).build();
    await driver.manage().setTimeouts({ script: 2 * WAIT_MS });
    const browser = new Browser(driver, profile);
    await browser.size(width, height);
    return browser;
  }

  /** Leaves the page, and everything that it kept, set or said. */
  private async clear(): Promise<void> {
    this.pressed = 0;
    const send = (name: string, parameters: object = {}) => this.command(name, parameters);
    await this.driver.get('about:blank');
    await send('Network.clearBrowserCookies');
    await send('Network.emulateNetworkConditions', {
      offline: false,
      latency: 0,
      downloadThroughput: -1,
      uploadThroughput: -1,
    });
    await send('Emulation.setTimezoneOverride', { timezoneId: '' });
    await send('Emulation.clearDeviceMetricsOverride');
    await this.media();
    await this.driver.manage().logs().get('browser');
    await this.size(1280, 800);
  }

  /** The size of the page, in CSS pixels; `zoom` as the browser's own zoom would make it. */
  async size(width: number, height: number, zoom = 1): Promise<void> {
    const metrics = {
      width: Math.round(width / zoom),
      height: Math.round(height / zoom),
      deviceScaleFactor: zoom,
      mobile: false,
    };
    await this.emulate('setDeviceMetricsOverride', metrics);
  }

  /** Waits until nothing is being fetched or worked out on the page, and nothing of it has changed for a moment. */
  async settled(): Promise<void> {
    const isStill = await this.inPage((quietMs: number) => {
      const page = window as unknown as { rawbitsChangedAt?: number };
      if (page.rawbitsChangedAt === undefined) {
        page.rawbitsChangedAt = performance.now();
        new MutationObserver(() => {
          page.rawbitsChangedAt = performance.now();
        }).observe(document.body, { subtree: true, childList: true, characterData: true, attributes: true });
      }
      const isQuiet = performance.now() - page.rawbitsChangedAt >= quietMs;
      return isQuiet && !/Loading …|working it out …/.test(document.body.textContent ?? '');
    }, QUIET_MS);
    if (!isStill) throw new Error('the page never came to rest');
  }

  /** Waits in the page until a condition on it holds, also over a page that is left for another; false where it never does. */
  private async inPage<T extends unknown[]>(condition: (...args: T) => boolean, ...args: T): Promise<boolean> {
    for (const began = Date.now(); ; ) {
      const leftMs = Math.max(0, WAIT_MS - (Date.now() - began));
      try {
        return await this.driver.executeAsyncScript<boolean>(waitingScript(condition as never, leftMs), ...args);
      } catch (thrown) {
        const isLeft = thrown instanceof error.JavascriptError && /unloaded|reload/i.test(thrown.message);
        if (!isLeft || leftMs === 0) throw thrown;
      }
    }
  }

  /** The page on paper (`print`), or in colours that the reader has chosen; as usual without. */
  media(media = '', forcedColors = false): Promise<void> {
    const features = [{ name: 'forced-colors', value: forcedColors ? 'active' : 'none' }];
    return this.emulate('setEmulatedMedia', { media, features });
  }

  /** The time zone that the page takes its computer to be in. */
  zone(timezoneId: string): Promise<void> {
    return this.emulate('setTimezoneOverride', { timezoneId });
  }

  private emulate(what: string, parameters: object): Promise<void> {
    return this.command(`Emulation.${what}`, parameters);
  }

  private command(name: string, parameters: object): Promise<void> {
    return (
      this.driver as WebDriver & { sendDevToolsCommand(name: string, parameters: object): Promise<void> }
    ).sendDevToolsCommand(name, parameters);
  }

  async close(): Promise<void> {
    await this.driver.quit();
    rmSync(this.profile, { recursive: true, force: true });
  }

  find(css: string): Promise<WebElement> {
    return this.located(By.css(css), `nothing matches ${css}`);
  }

  /** Waits for an element; where it never comes, what the page says instead stands in the error. */
  private async located(by: By, problem: string): Promise<WebElement> {
    const { using, value } = by as By & { using: string; value: string };
    const isThere = await this.inPage(
      (how: string, what: string) =>
        how === 'xpath'
          ? document.evaluate(what, document, null, XPathResult.BOOLEAN_TYPE).booleanValue
          : document.querySelector(what) !== null,
      using,
      value,
    );
    if (!isThere) throw new Error(`${problem}; the page says: ${(await this.textOf('body')).slice(0, 1500)}`);
    const [element] = await this.driver.findElements(by);
    // Gone again by the time it was asked for: drawn anew.
    return element ?? this.located(by, problem);
  }

  /**
   * Does something to what a selector matches, found anew when the page drew it again meanwhile: what was found a moment
   * ago may be gone by the time it is asked.
   */
  on<T>(css: string, act: (element: WebElement) => Promise<T>): Promise<T> {
    return again(async () => act(await this.find(css)));
  }

  /** As `on`, by an XPath. */
  onPath<T>(path: string, act: (element: WebElement) => Promise<T>): Promise<T> {
    return again(async () => act(await this.located(By.xpath(path), `nothing matches ${path}`)));
  }

  /** The visible button or link with these words. */
  async button(words: string): Promise<WebElement> {
    const path = `//*[self::button or self::a][contains(normalize-space(.), "${words}")]`;
    const element = await this.located(By.xpath(path), `no button says "${words}"`);
    await this.driver.wait(until.elementIsEnabled(element), WAIT_MS, undefined, POLL_MS);
    return element;
  }

  async click(words: string): Promise<void> {
    await again(async () => (await this.button(words)).click());
  }

  /** Waits until nothing on the page is there by the selector any more. */
  async gone(css: string): Promise<void> {
    const isGone = await this.inPage((selector: string) => document.querySelector(selector) === null, css);
    if (!isGone) throw new Error(`${css} never went away`);
  }

  /** Waits until something is so. */
  async until(so: () => Promise<boolean>, problem?: string): Promise<void> {
    await this.driver.wait(so, WAIT_MS, problem, POLL_MS);
  }

  /** Waits until the text of what a selector matches contains the words. */
  async see(words: string, css = 'body'): Promise<void> {
    const shows = await this.inPage(
      (text: string, selector: string) =>
        [...document.querySelectorAll<HTMLElement>(selector)]
          .map((e) => e.innerText)
          .join('\n')
          .includes(text),
      words,
      css,
    );
    if (!shows)
      throw new Error(`"${words}" did not show in ${css}; it says: ${(await this.textOf(css)).slice(0, 1500)}`);
  }

  textOf(css: string): Promise<string> {
    return this.driver.executeScript<string>(
      (selector: string) =>
        [...document.querySelectorAll(selector)].map((e) => (e as HTMLElement).innerText).join('\n'),
      css,
    );
  }

  /** Presses keys one after the other, counted. */
  async press(...keys: string[]): Promise<void> {
    this.pressed += keys.join('').length;
    await this.driver
      .actions()
      .sendKeys(...keys)
      .perform();
  }

  async chord(modifier: string, key: string): Promise<void> {
    this.pressed++;
    await this.driver.actions().keyDown(modifier).sendKeys(key).keyUp(modifier).perform();
  }

  /** Presses Tab until what has the focus matches; fails when it never does. */
  async tabTo(css: string): Promise<void> {
    for (let i = 0; i < 150; i++) {
      const there = await this.driver.executeScript<boolean>(
        (selector: string) => document.activeElement?.matches(selector) ?? false,
        css,
      );
      if (there) return;
      await this.press(Key.TAB);
    }
    throw new Error(`Tab never reached ${css}`);
  }

  /** Pastes as the clipboard would: an event with the text, at whatever has the focus. */
  async paste(text: string): Promise<void> {
    await this.driver.executeScript((pasted: string) => {
      const data = new DataTransfer();
      data.setData('text/plain', pasted);
      (document.activeElement ?? document.body).dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
      );
    }, text);
  }

  /**
   * What axe-core finds that is serious, by all of its rules and the size of targets, or by some: an empty list where nothing
   * is. Of the whole page, or without what a selector matches.
   */
  async violations({ rules = [], without = [] }: { rules?: string[]; without?: string[] } = {}): Promise<string[]> {
    if (!(await this.driver.executeScript<boolean>(() => 'axe' in window))) await this.driver.executeScript(axe);
    return this.driver.executeAsyncScript<string[]>(
      (only: string[], exclude: string[], done: (found: string[]) => void) => {
        const { axe } = window as unknown as { axe: { run(context: object, options: object): Promise<AxeResults> } };
        // What is right is not told one by one: there is much of it. The size of targets is asked for by its name alone.
        const options = { resultTypes: ['violations'], preload: false, rules: { 'target-size': { enabled: true } } };
        // Colours that are still changing are nobody's; what is out of sight may never come to its end.
        const changing = document.getAnimations().filter((one) => one instanceof CSSTransition);
        const second = new Promise((resolve) => setTimeout(resolve, 1000));
        void Promise.race([Promise.allSettled(changing.map(({ finished }) => finished)), second])
          .then(() => axe.run({ exclude }, only.length > 0 ? { ...options, runOnly: only } : options))
          .then(({ violations }) =>
            done(
              violations
                .filter(({ impact }) => impact === 'serious' || impact === 'critical')
                .map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`),
            ),
          );
      },
      rules,
      without,
    );
  }

  /**
   * To an address of the application that is open, without loading it anew; by way of an address that shows nothing, so that
   * what is found there afterwards is of the new one.
   */
  async move(address: string): Promise<void> {
    const path = address.replace(/^https?:\/\/[^/]+/, '');
    const push = (to: string) =>
      this.driver.executeScript((address: string) => {
        window.history.pushState(null, '', address);
        window.dispatchEvent(new PopStateEvent('popstate'));
      }, to);
    const nowhere = 'There is no such page.';
    await push(`/${path.split('/')[1]}/nowhere`);
    await this.see(nowhere, 'main');
    await push(path);
    const isLeft = await this.inPage(
      (text: string) => document.querySelector('main')?.textContent?.includes(text) === false,
      nowhere,
    );
    if (!isLeft) throw new Error(`${path} was never shown`);
    await this.find('h1');
    await this.settled();
  }

  async signIn(url: string, login: string, password: string): Promise<void> {
    await this.driver.get(url);
    await (await this.find('input[autocomplete=username]')).sendKeys(login);
    await (await this.find('input[type=password]')).sendKeys(password, Key.ENTER);
    await this.find('nav[aria-label=Screens]');
  }

  /** What the browser complained about, but for the 401 that asking who is signed in gives. */
  async complaints(): Promise<string[]> {
    const entries = await this.driver.manage().logs().get('browser');
    return entries.map((e) => e.message).filter((m) => !m.includes('/api/session'));
  }
}
