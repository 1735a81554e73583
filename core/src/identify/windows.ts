/**
 * Windows: every place in a read where a number stands, in any order of bits or bytes. A window has at least the bits
 * that the number needs; zeros before it may belong to it or not, one card cannot tell, so both ends are given.
 */
import type { Bits } from '../bits/index.ts';
import { rangeOf } from '../format/index.ts';

export type WindowOrder =
  | 'as sent'
  | 'bits reversed'
  | 'bytes reversed'
  | 'inverted'
  | 'bits reversed, inverted'
  | 'bytes reversed, inverted';

export interface Window {
  order: WindowOrder;
  /** The least window, 1-based, both ends included. */
  from: number;
  to: number;
  /** How many zeros beyond the most significant end could belong to it. */
  leadingZeros: number;
}

/** More windows than this say nothing; the rest are counted only. */
const MOST = 24;

/** All windows of a read that hold `value`, plain ones first. */
export function windowsOf(bits: Bits, value: bigint): { windows: Window[]; more: number } {
  const needed = value === 0n ? '0' : value.toString(2);
  const found: Window[] = [];
  const push = (window: Window) => {
    if (!found.some((w) => w.from === window.from && w.to === window.to)) found.push(window);
  };
  for (const inverted of [false, true]) {
    const text = (inverted ? bits.invert() : bits).toBinary();
    const suffix = inverted ? ', inverted' : '';
    const plain = (inverted ? 'inverted' : 'as sent') as WindowOrder;
    for (const window of plainWindows(text, needed)) push({ ...window, order: plain });
    const reversed = [...text].reverse().join('');
    for (const { from, to, leadingZeros } of plainWindows(reversed, needed)) {
      const [first, last] = [text.length + 1 - to, text.length + 1 - from];
      push({ from: first, to: last, leadingZeros, order: `bits reversed${suffix}` as WindowOrder });
    }
    for (const window of byteWindows(text, needed))
      push({ ...window, order: `bytes reversed${suffix}` as WindowOrder });
  }
  return { windows: found.slice(0, MOST), more: Math.max(0, found.length - MOST) };
}

type Place = Omit<Window, 'order'>;

function plainWindows(text: string, needed: string): Place[] {
  const places: Place[] = [];
  for (let i = text.indexOf(needed); i >= 0; i = text.indexOf(needed, i + 1)) {
    let zeros = 0;
    while (text[i - 1 - zeros] === '0') zeros++;
    places.push({ from: i + 1, to: i + needed.length, leadingZeros: zeros });
  }
  return places;
}

/** Whole bytes at any offset, the least significant byte first; at least two, else they are plain windows. */
function byteWindows(text: string, needed: string): Place[] {
  const bytes = Math.ceil(needed.length / 8);
  if (bytes < 2) return [];
  const padded = needed.padStart(bytes * 8, '0');
  const pattern = padded.match(/.{8}/g)!.reverse().join('');
  const places: Place[] = [];
  for (let i = text.indexOf(pattern); i >= 0; i = text.indexOf(pattern, i + 1)) {
    let zeros = 0;
    const end = i + pattern.length;
    while (text.slice(end + zeros, end + zeros + 8) === '00000000') zeros += 8;
    places.push({ from: i + 1, to: end, leadingZeros: zeros });
  }
  return places;
}

/** A window in words: `bits 18-36, or fewer leading zeros`. */
export function windowInWords(window: Window): string {
  const { from, to, leadingZeros, order } = window;
  const range = rangeOf(Array.from({ length: to - from + 1 }, (_, i) => from + i));
  const name = from === to ? `bit ${from}` : `bits ${range}`;
  const wide =
    order.startsWith('as sent') || order === 'inverted'
      ? `${from - leadingZeros}-${to}`
      : `${from}-${to + leadingZeros}`;
  const zeros = leadingZeros === 0 ? '' : `, up to ${wide} with leading zeros`;
  return order === 'as sent' ? `${name}${zeros}` : `${name} ${order}${zeros}`;
}
