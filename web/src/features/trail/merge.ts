/** Events and changes in one order. */
import type { AccessEvent, TrailEntry } from '@rawbits/api';

export type TrailRow =
  | { kind: 'event'; at: string; event: AccessEvent }
  | { kind: 'change'; at: string; change: TrailEntry };

/** Newest first; of the same instant, the event first. Both lists come newest first. */
export function mergeByTime(events: readonly AccessEvent[], changes: readonly TrailEntry[]): TrailRow[] {
  const rows: TrailRow[] = [
    ...events.map((event) => ({ kind: 'event' as const, at: event.at, event })),
    ...changes.map((change) => ({ kind: 'change' as const, at: change.at, change })),
  ];
  return rows.sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

/** Whether every word of the search stands somewhere in the row. */
export function matches(row: TrailRow, search: string): boolean {
  const text = JSON.stringify(row).toLowerCase();
  return search
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
