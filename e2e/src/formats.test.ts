/** Formats in the real interface: every catalogue layout drawn by hand, drafts, dry runs, one card with two numbers. */

import { CATALOGUE } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import {
  type Format,
  parseLayoutLine,
  positionsOf,
  printLayoutLine,
  printMethod,
  type Span,
} from '@rawbits/core/format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isTried } from '../../core/testing/runs.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from './application.ts';
import { Browser, By, Key } from './browser.ts';

const LINE = '[data-testid=layout-line]';
const TAPE = 'section[aria-label=Editor] [role=group]';

describe('defining formats', () => {
  let application: Application;
  let browser: Browser;
  let site: string;
  beforeAll(async () => {
    application = await startApplication();
    browser = await Browser.ofWorker();
    await browser.signIn(application.url, OPERATORS[1].login, OPERATORS[1].password);
    await browser.find('h1');
    site = new URL(await browser.driver.getCurrentUrl()).pathname.split('/')[1]!;
  });
  afterAll(async () => {
    await application?.close();
  });

  const go = (path: string) => browser.move(`${application.url}/${site}/${path}`);
  const lineNow = async () => browser.on(LINE, (e) => e.getAttribute('value'));
  const lineBecomes = async (line: string) => {
    await browser.until(async () => (await lineNow()) === line).catch(async () => expect(await lineNow()).toBe(line));
  };
  const focusTape = () =>
    browser.driver.executeScript((css: string) => (document.querySelector(css) as HTMLElement).focus(), TAPE);
  const fill = async (css: string, text: string) => {
    const field = await browser.find(css);
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), text, Key.ENTER);
  };
  const blank = async (bits: number) => {
    // Loaded anew: what was drawn before is gone with the draft of it.
    await browser.driver.executeScript(() => localStorage.clear());
    await browser.driver.get(`${application.url}/${site}/formats?new`);
    await browser.find(LINE);
    await fill('[data-testid=length]', String(bits));
    await lineBecomes(String(bits));
  };

  /** Selects a rising run with the arrow keys alone, from whichever end is nearer. */
  const selectByKeys = async (from: number, to: number, bits: number) => {
    await focusTape();
    const steps =
      from - 1 <= bits - from
        ? [Key.HOME, Key.ARROW_RIGHT.repeat(from - 1)]
        : [Key.END, Key.ARROW_LEFT.repeat(bits - from)];
    await browser.press(...steps.filter(Boolean));
    if (to > from)
      await browser.driver
        .actions()
        .keyDown(Key.SHIFT)
        .sendKeys(Key.ARROW_RIGHT.repeat(to - from))
        .keyUp(Key.SHIFT)
        .perform();
  };
  /** Drags over the cells of a run, by the mouse. */
  const drag = async (from: number, to: number) => {
    const centre = (p: number) =>
      browser.driver.executeScript<{ x: number; y: number }>(
        (css: string, position: number) => {
          const svg = document.querySelector(`${css} svg`)!;
          // The ruler's numbers stand over their cells; the cells of a line are evenly spaced within a group of 8.
          const box = svg.getBoundingClientRect();
          const texts = [...svg.querySelectorAll('text.font-mono')];
          const places = texts.flatMap((t) => {
            const y = Number(t.getAttribute('y'));
            return t
              .getAttribute('x')!
              .split(' ')
              .map((x) => ({ x: Number(x), y }));
          });
          places.sort((a, b) => a.y - b.y || a.x - b.x);
          const at = places[position - 1]!;
          return { x: Math.round(box.left + at.x + 8), y: Math.round(box.top + at.y - 3) };
        },
        TAPE,
        p,
      );
    const [a, b] = [await centre(from), await centre(to)];
    await browser.driver
      .actions()
      .move({ ...a, duration: 0 })
      .press()
      .move({ ...b, duration: 60 })
      .release()
      .perform();
  };

  const KEYS: Record<string, string> = {
    facility: 'f',
    number: 'n',
    issue: 'i',
    even: 'e',
    odd: 'o',
    fixed: 'x',
    value: 'v',
    check: 'k',
  };
  const roleOf = (span: Span) => (span.role === 'parity' ? span.sense : span.role);
  const row = (span: Span, cell: string) => `[aria-label="${cell} of ${span.role} ${span.at}"]`;

  const draw = async (format: Format, byMouse: boolean) => {
    await blank(format.bits);
    // Values and fixed bits first, then what sums them: painting takes bits away from what had them.
    for (const span of format.spans) {
      const at = positionsOf(span.at);
      if (byMouse) await drag(at[0]!, at.at(-1)!);
      else await selectByKeys(at[0]!, at.at(-1)!, format.bits);
      await focusTape();
      await browser.press(KEYS[roleOf(span)]!);
      if (span.role === 'value') await fill(row(span, 'Label, bits or method'), span.label);
      if (span.role === 'fixed' && !/^0+$/.test(span.bits)) await fill(row(span, 'Label, bits or method'), span.bits);
      if (span.role === 'check') await fill(row(span, 'Label, bits or method'), printMethod(span.method));
      if ('covers' in span) await fill(row(span, 'Coverage'), span.covers);
      if ('written' in span && span.written) {
        const select = await browser.find(row(span, 'written'));
        await select.findElement(By.xpath(`option[.="${span.written}"]`)).click();
      }
    }
    for (const [flag, label] of [
      ['reverseBytes', 'bytes arrive reversed'],
      ['reverseBits', 'bits arrive reversed'],
      ['invert', 'inverted'],
    ] as const)
      if (format.arrives[flag])
        await browser.driver.findElement(By.xpath(`//label[contains(., "${label}")]/input`)).click();
  };

  // Spans stand in the order of their first bits in both, so the lines are equal to the letter.
  it.each(
    CATALOGUE.map((format, i) => [format.id, i % 4 === 3 ? 'by mouse' : 'by keyboard', format] as const).filter(
      (_, i) => isTried(i, 3),
    ),
  )('%s drawn %s equals the catalogue’s', async (_, how, format) => {
    // A mouse reaches what is in sight: a long tape is higher than its part of the usual window.
    await browser.size(1280, how === 'by mouse' && format.bits > 100 ? 1600 : 800);
    await draw(format, how === 'by mouse');
    const inOrder = [...format.spans].sort((a, b) => Math.min(...positionsOf(a.at)) - Math.min(...positionsOf(b.at)));
    await lineBecomes(printLayoutLine({ ...format, spans: inOrder }));
    await browser.see('These are the same bits as', '[data-testid=checks]');
  });

  it('the line and the tape follow each other, with errors at their column; undo, redo, and a reload lose nothing', async () => {
    await blank(26);
    const line = await browser.find(LINE);
    await line.sendKeys(' | 2-9 facilty');
    await browser.see('Column 10: "facilty" is not a role.', 'section[aria-label=Editor]');
    await line.sendKeys(Key.chord(Key.CONTROL, 'a'), '26 | 2-9 facility');
    await browser.see('facility code', TAPE);
    await selectByKeys(10, 25, 26);
    await browser.press('n');
    await lineBecomes('26 | 2-9 facility | 10-25 number');
    await selectByKeys(1, 1, 26);
    await browser.press('e');
    await lineBecomes('26 | 1 even 2-13 | 2-9 facility | 10-25 number');
    await browser.see('No span claims bit 26.', '[data-testid=checks]');
    await selectByKeys(13, 13, 26);
    await browser.press('u');
    await lineBecomes('26 | 1 even 2-12 | 2-9 facility | 10-25 number');
    await browser.see('usual is 2-13: bit 13 is missing', '[data-testid=checks]');
    await browser.chord(Key.CONTROL, 'z');
    await browser.chord(Key.CONTROL, 'z');
    await lineBecomes('26 | 2-9 facility | 10-25 number');
    await browser.chord(Key.CONTROL, 'y');
    await lineBecomes('26 | 1 even 2-13 | 2-9 facility | 10-25 number');
    await browser.driver.navigate().refresh();
    await browser.find(LINE);
    await lineBecomes('26 | 1 even 2-13 | 2-9 facility | 10-25 number');
    await focusTape();
    await browser.chord(Key.CONTROL, 'z');
    await lineBecomes('26 | 2-9 facility | 10-25 number');
  });

  it('a sheet typed back makes the layout; a mask that is none is told by its line', async () => {
    await blank(26);
    await browser.click('from a settings sheet or masks');
    const sheet = await browser.find('section[aria-label="From a settings sheet"] textarea');
    await sheet.sendKeys('bits 26\nfacility mask 1FE00000F');
    await browser.click('Make the layout');
    await browser.see('Line 2: ', 'section[aria-label="From a settings sheet"]');
    await sheet.sendKeys(
      Key.chord(Key.CONTROL, 'a'),
      'bits 26\nfacility mask 1FE0000\nnumber start 10 length 16\neven 1 covers 2-13\nodd 26 covers 14-25',
    );
    await browser.click('Make the layout');
    await lineBecomes('26 | 2-9 facility | 10-25 number | 1 even 2-13 | 26 odd 14-25');
  });

  it('a wrong mask is shown on every card before it is saved, and saved only with the number of cards typed', async () => {
    await go('formats/26-8-16?view=edit');
    const line = await browser.find(LINE);
    await line.sendKeys(Key.chord(Key.CONTROL, 'a'), '26 | 1 even 2-13 | 2-8 facility | 9-24 number | 26 odd 14-25');
    await browser.on('input[placeholder^="data sheet, finding"]', (e) => e.sendKeys('box label'));
    await browser.click('Show what it would do');
    // Two active cards of the first supplier are let in: Ragna Holm's and Mikkel Aune's.
    await browser.see('This refuses 2 cards that are let in as it is set up now.', 'section[aria-label="Dry run"]');
    expect(await browser.textOf('[data-testid="cards newly refused"]')).toBe('2');
    await browser.see('58/10233', 'section[aria-label="Dry run"]');
    await browser.see('facility 29, number 5116', 'section[aria-label="Dry run"]');
    const save = await browser.driver.findElement(By.xpath('//button[.="Save the change"]'));
    expect(await save.isEnabled()).toBe(false);
    await browser.on('section[aria-label="Dry run"] input', (e) => e.sendKeys('2'));
    await save.click();
    await browser.see('version 2 · box label');
    await browser.see('Saved, but not at the doors yet', '[aria-label="Yet to be loaded"]');
    await browser.see('Main building', '[aria-label="Yet to be loaded"]');
    await browser.click('Versions');
    await browser.see('different reads on file are not the same under both', '[data-testid=comparison]');
    await browser.click('Use this one');
    await browser.see('at every controller', '[data-testid=outcomes]');
    expect(await browser.textOf('[data-testid="cards newly refused"]')).toBe('0');
    await browser.click('Save the change');
    await browser.see('version 1 (version 2 is in the library)');
    // The boat shed has what it had; at the main building a card waits, as before.
    await browser.until(async () => !(await browser.textOf('[aria-label="Yet to be loaded"]')).includes('Boat shed'));
  });

  it('a second format of one length at a door shows first whose cards become ambiguous', async () => {
    await go('read');
    await browser.paste('28E4694 26 bits');
    await browser.onPath('//tr//button[contains(., "number only")]', (e) => e.click());
    await browser.click('Accept at a door');
    await browser.onPath('//fieldset//button[.="Boat shed"]', (e) => e.click());
    await browser.see('become ambiguous', 'dialog [data-testid=ambiguous]');
    await browser.see('Mikkel Aune', 'dialog [data-testid=ambiguous]');
    await browser.see('this card', 'dialog [data-testid=ambiguous]');
    await browser.click('Do not save');
    await browser.gone('dialog [data-testid=ambiguous]');
    await go('doors');
    await browser.see('current', '[data-controller=boat-shed] [data-testid=standing]');
  });

  it('one card, two numbers: the translation found is kept, and the paste field applies it', async () => {
    await go('formats?part=numbers');
    // 4-byte UIDs made up; the desk reader types the decimal of the reversed bytes (DOMAIN §1, common practice).
    const rows = [
      ['473670148', '04A23B1C'],
      ['2421107741', '1D2C4F90'],
    ];
    for (const [i, [a, b]] of rows.entries()) {
      await browser.on(`input[aria-label="Row ${i + 1}, first device"]`, (e) => e.sendKeys(a!));
      await browser.on(`input[aria-label="Row ${i + 1}, second device"]`, (e) => e.sendKeys(b!));
    }
    await browser.see('decimal of 32 bits, bytes reversed, written in hex', '[data-testid=explanations]');
    await browser.on('input[placeholder="desk reader to wall reader"]', (e) => e.sendKeys('Desk pad'));
    await browser.click('Keep the translation');
    await browser.see('Translations of this site');
    await browser.paste('473670148 ');
    await browser.see('translated, Desk pad');
    await (await browser.button('translated, Desk pad')).click();
    await browser.see('04A23B1C');
  });

  it('a format with its first card: values in, bits out as hex and pulses', async () => {
    await go('formats/26-8-16?view=edit');
    await browser.find('section[aria-label=Editor] input[placeholder="0"]');
    const inputs = await browser.driver.findElements(By.css('section[aria-label=Editor] input[placeholder="0"]'));
    await inputs[0]!.sendKeys('58');
    await inputs[1]!.sendKeys('10233');
    const layout = parseLayoutLine((await lineNow())!);
    await browser.see(encode(layout, { facility: '58', number: '10233' }).toBinary(), '[data-testid=made-bits]');
    await browser.see('26 pulses', 'figcaption');
    expect(await browser.complaints()).toEqual([]);
  });
});
