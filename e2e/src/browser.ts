/** Headless Chromium through Debian's driver, with what the stories need: waiting for words, keys, dragging. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AxeResults } from 'axe-core';
import { Builder, By, error, Key, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';

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
  '--hide-scrollbars',
  '--lang=en',
];
/** How long a busy machine may take; nothing that comes sooner waits for it. */
const WAIT_MS = 60_000;
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

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

export class Browser {
  /** How many keys were pressed; a chord is one. */
  pressed = 0;

  private constructor(
    readonly driver: WebDriver,
    private readonly profile: string,
  ) {}

  static async open(width = 1280, height = 800): Promise<Browser> {
    const profile = mkdtempSync(join(tmpdir(), 'rawbits-chromium-'));
    const options = new Options();
    options.addArguments(...FLAGS, `--user-data-dir=${profile}`, `--window-size=${width},${height}`);
    options.setChromeBinaryPath('/usr/bin/chromium');
    const driver = await new Builder()
      .forBrowser('chrome')
      .setChromeOptions(options)
      .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
      .build();
    const browser = new Browser(driver, profile);
    await browser.size(width, height);
    return browser;
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

  /** Waits until nothing is being fetched or worked out on the page, and it stands as it did a moment ago. */
  async settled(): Promise<void> {
    let before = '';
    await this.driver.wait(async () => {
      const now = await this.driver.executeScript<string>(() => document.body.innerHTML);
      const stands = now === before && !/Loading …|working it out …/.test(now);
      before = now;
      return stands;
    }, WAIT_MS);
  }

  /** The time zone that the page takes its computer to be in. */
  zone(timezoneId: string): Promise<void> {
    return this.emulate('setTimezoneOverride', { timezoneId });
  }

  private emulate(what: string, parameters: object): Promise<void> {
    return (
      this.driver as WebDriver & { sendDevToolsCommand(name: string, parameters: object): Promise<void> }
    ).sendDevToolsCommand(`Emulation.${what}`, parameters);
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
    const found = this.driver.wait(until.elementLocated(by), WAIT_MS) as Promise<WebElement>;
    return found.catch(async () => {
      throw new Error(`${problem}; the page says: ${(await this.textOf('body')).slice(0, 1500)}`);
    });
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
    await this.driver.wait(until.elementIsEnabled(element), WAIT_MS);
    return element;
  }

  async click(words: string): Promise<void> {
    await again(async () => (await this.button(words)).click());
  }

  /** Waits until nothing on the page is there by the selector any more. */
  gone(css: string): Promise<void> {
    return this.until(async () => (await this.driver.findElements(By.css(css))).length === 0, `${css} never went away`);
  }

  /** Waits until something is so. */
  async until(so: () => Promise<boolean>, problem?: string): Promise<void> {
    await this.driver.wait(so, WAIT_MS, problem);
  }

  /** Waits until the text of what a selector matches contains the words. */
  async see(words: string, css = 'body'): Promise<void> {
    const has = async () => (await this.textOf(css)).includes(words);
    await this.driver.wait(has, WAIT_MS).catch(async () => {
      throw new Error(`"${words}" did not show in ${css}; it says: ${(await this.textOf(css)).slice(0, 1500)}`);
    });
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

  /** What axe-core finds that is serious, by all of its rules and the size of targets, or by some: an empty list where nothing is. */
  async violations(...rules: string[]): Promise<string[]> {
    if (!(await this.driver.executeScript<boolean>(() => 'axe' in window))) await this.driver.executeScript(axe);
    return this.driver.executeAsyncScript<string[]>((only: string[], done: (found: string[]) => void) => {
      const { axe } = window as unknown as { axe: { run(context: Document, options: object): Promise<AxeResults> } };
      // What is right is not told one by one: there is much of it. The size of targets is asked for by its name alone.
      const options = { resultTypes: ['violations'], preload: false, rules: { 'target-size': { enabled: true } } };
      // Colours that are still changing are nobody's.
      const changing = document.getAnimations().filter((one) => one instanceof CSSTransition);
      void Promise.allSettled(changing.map(({ finished }) => finished))
        .then(() => axe.run(document, only.length > 0 ? { ...options, runOnly: only } : options))
        .then(({ violations }) =>
          done(
            violations
              .filter(({ impact }) => impact === 'serious' || impact === 'critical')
              .map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`),
          ),
        );
    }, rules);
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
