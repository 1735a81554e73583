/**
 * Editing a layout: small pure steps, each a new layout. Painting takes bits away from whatever had them, so that an
 * edit never makes an overlap; nothing else is touched.
 */
import type { Layout, Span } from './definition.ts';
import { positionsOf, rangeOf } from './range.ts';

/** A span whose bits have been taken away is dropped when none are left, and cut down otherwise. */
function without(span: Span, taken: ReadonlySet<number>): Span | undefined {
  const at = positionsOf(span.at);
  const left = at.filter((p) => !taken.has(p));
  if (left.length === at.length) return span;
  if (left.length === 0) return undefined;
  if (span.role === 'fixed') {
    const bits = at.flatMap((p, i) => (taken.has(p) ? [] : [span.bits[i]!])).join('');
    return { ...span, at: rangeOf(left), bits };
  }
  if (span.role === 'parity' || span.role === 'check') return undefined;
  return { ...span, at: rangeOf(left) };
}

/** Puts a span in; other spans lose the bits that it takes. A second facility, number or issue replaces the first. */
export function paint(layout: Layout, span: Span): Layout {
  const taken = new Set(positionsOf(span.at));
  const single = span.role === 'facility' || span.role === 'number' || span.role === 'issue';
  const others = layout.spans
    .filter((other) => !(single && other.role === span.role))
    .flatMap((other) => without(other, taken) ?? []);
  return { ...layout, spans: inOrder([...others, span]) };
}

/** Replaces one span by another, which may stand elsewhere. */
export function replace(layout: Layout, index: number, span: Span): Layout {
  return paint({ ...layout, spans: layout.spans.filter((_, i) => i !== index) }, span);
}

/** Takes a span out; its bits become spare. */
export function remove(layout: Layout, index: number): Layout {
  return { ...layout, spans: layout.spans.filter((_, i) => i !== index) };
}

/** Turns one bit of a parity bit's or a check's coverage on or off; `index` is its span's. */
export function toggleCovered(layout: Layout, index: number, position: number): Layout {
  const span = layout.spans[index];
  if (span?.role !== 'parity' && span?.role !== 'check') return layout;
  const covers = positionsOf(span.covers);
  const next = covers.includes(position)
    ? covers.filter((p) => p !== position)
    : [...covers, position].sort((a, b) => a - b);
  if (next.length === 0) return layout;
  return { ...layout, spans: layout.spans.map((s, i) => (i === index ? { ...span, covers: rangeOf(next) } : s)) };
}

/** Another length: spans lose what lies past the end, and those that cannot be cut are dropped. */
export function resize(layout: Layout, bits: number): Layout {
  const past = new Set<number>();
  for (const span of layout.spans) for (const p of positionsOf(span.at)) if (p > bits) past.add(p);
  const spans = layout.spans.flatMap((span): Span[] => {
    const kept = without(span, past);
    if (!kept) return [];
    if (kept.role !== 'parity' && kept.role !== 'check') return [kept];
    const covers = positionsOf(kept.covers).filter((p) => p <= bits);
    if (covers.length === positionsOf(kept.covers).length) return [kept];
    return covers.length > 0 ? [{ ...kept, covers: rangeOf(covers) }] : [];
  });
  return { ...layout, bits, spans };
}

/** Spans in the order of their first positions, as a person reads them. */
function inOrder(spans: Span[]): Span[] {
  const first = (span: Span) => Math.min(...positionsOf(span.at));
  return [...spans].sort((a, b) => first(a) - first(b));
}
