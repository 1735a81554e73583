/** The bus and its clock: what one device sends on comes in at the next, and what is due later happens later. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_IMAGE } from '@rawbits/core/access';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import type { Step } from '@rawbits/core/line';
import { describe, expect, it } from 'vitest';
import { SetClock } from '../clock/clock.ts';
import { itemsOf } from '../controller/controller.ts';
import { Rig } from '../world/rig.ts';
import { Bus } from './bus.ts';

/** Sends on what comes in, doubled; after a second without input, 0. */
const doubling: Step<null, number, number> = (state, now, input) =>
  input === undefined ? { state, out: [0] } : { state, out: [input * 2], wakeAt: now + 1000 };

describe('the bus', () => {
  const seen: [string, unknown, number][] = [];
  const clock = new SetClock(10_000);
  const bus = new Bus(clock, (...what) => seen.push(what));
  bus.place('last', doubling, null);
  bus.place('first', doubling, null, ['last']);

  it('lets all that follows from an input happen, in order', () => {
    bus.send('first', 3);
    expect(seen.splice(0)).toEqual([
      ['first', 6, 10_000],
      ['last', 12, 10_000],
    ]);
  });

  it('wakes a device when it asked to be, and not when something came in between', () => {
    clock.pass(600);
    bus.send('last', 1);
    expect(seen.splice(0)).toEqual([['last', 2, 10_600]]);
    clock.pass(5000);
    expect(seen.splice(0)).toEqual([
      // What the first sends when it is woken comes in at the last.
      ['first', 0, 11_000],
      ['last', 0, 11_000],
      ['last', 0, 12_000],
    ]);
  });

  it('a device that was taken off is woken no more', () => {
    bus.send('last', 1);
    bus.remove('last');
    seen.length = 0;
    clock.pass(5000);
    expect(seen).toEqual([]);
  });
});

describe('a rig on a clock that is set', () => {
  it('a door is released for five seconds, and anew by the next card', () => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-rig-'));
    const format = catalogued('26-8-16')!;
    const credential = {
      ...{ id: 'c', format: '26-8-16', facility: '71', number: '9034', holder: null, state: 'active' as const },
      ...{ validFrom: null, validTo: '2026-06-30T22:00:00.000Z' },
    };
    const clock = new SetClock(Date.parse('2026-06-30T21:59:58.000Z'));
    const rig = new Rig(folder, clock);
    const bits = encode(format, { facility: '71', number: '9034' }).toBinary();
    rig.setUp({
      site: 's',
      cards: [{ id: 'a', shape: 'card', printed: '', look: '', bits }],
      readers: [{ id: 'door', controller: 'main', pulseWidthUs: 50, pulseSpacingUs: 1000 }],
      controllers: [{ id: 'main' }],
    });
    rig.controller('main').changeByHand(itemsOf({ ...EMPTY_IMAGE, formats: [format], credentials: [credential] }));
    rig.present('a', 'door');
    expect(rig.isReleased('main', 'door')).toBe(true);
    clock.pass(1000);
    rig.present('a', 'door');
    clock.pass(4999);
    expect(rig.isReleased('main', 'door')).toBe(true);
    clock.pass(1);
    expect(rig.isReleased('main', 'door')).toBe(false);
    // Its time is over by now, on the rig's clock.
    rig.present('a', 'door');
    expect(rig.isReleased('main', 'door')).toBe(false);
    rig.log.close();
    rmSync(folder, { recursive: true });
  });
});
