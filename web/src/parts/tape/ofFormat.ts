/** A format drawn on a read: its spans and threads at the places where their bits are shown. */
import type { Decoded } from '@rawbits/core/codec';
import { arrivalOf, type Layout, labelOf, positionsOf } from '@rawbits/core/format';
import { type SpanLook, type TapeSpan, type TapeThread, wordsOf } from './geometry.ts';

export interface Drawing {
  spans: TapeSpan[];
  threads: TapeThread[];
}

const NAMES: Partial<Record<string, string>> = {
  facility: 'facility code',
  number: 'card number',
  issue: 'issue level',
};

/**
 * `shownAt` says where the bit that arrives at a position is shown (both 1-based); a read shown as it was sent has the
 * identity. `decoded` gives values and what holds; without it, only the structure is drawn. `codeName`: what the site
 * calls the facility code, where it has a name for it.
 */
export function drawingOf(
  layout: Layout,
  decoded: Decoded | undefined,
  shownAt: (arrival: number) => number,
  codeName?: string,
): Drawing {
  const place = (range: string) => positionsOf(range).map((p) => shownAt(arrivalOf(p, layout)));
  const drawing: Drawing = { spans: [], threads: [] };
  layout.spans.forEach((span, i) => {
    const id = `${span.role}-${i}`;
    const positions = place(span.at);
    if (span.role === 'parity' || span.role === 'check') {
      const holds =
        span.role === 'parity'
          ? decoded?.parity.find((p) => p.at === positionsOf(span.at)[0])?.holds
          : decoded?.checks.find((c) => c.kind === 'check' && c.at === span.at)?.holds;
      const text =
        span.role === 'parity'
          ? `bit ${span.at} ${span.sense} over ${span.covers}`
          : `check ${span.at} over ${span.covers}`;
      drawing.threads.push({ id, at: positions, covers: place(span.covers), holds, text });
      drawing.spans.push({ id, look: span.role, positions, name: span.role });
      return;
    }
    if (span.role === 'fixed') {
      drawing.spans.push({ id, look: 'fixed', positions, name: 'fixed' });
      return;
    }
    const label = labelOf(span)!;
    const value = decoded?.values[label];
    drawing.spans.push({
      id,
      look: span.role as SpanLook,
      positions,
      name: label === 'facility' && codeName ? `facility code, ${codeName}` : (NAMES[label] ?? label),
      value: value ?? (decoded ? '?' : undefined),
    });
  });
  return drawing;
}

/** The tape in words, for a screen reader. */
export function tapeInWords(bits: string, { spans, threads }: Drawing): string {
  const grouped = bits.replace(/.{8}/g, '$& ').trim();
  const parts = spans
    .filter((span) => span.look !== 'parity' && span.look !== 'fixed')
    .map(
      (span) =>
        `${span.name}${span.value === undefined ? '' : ` ${span.value}`} at ${[...span.positions].sort((a, b) => a - b)[0]} to ${Math.max(...span.positions)}`,
    );
  const checks = threads.map(wordsOf);
  return [`${bits.length} bits: ${grouped}.`, ...[...parts, ...checks].map((part) => `${part}.`)].join(' ');
}
