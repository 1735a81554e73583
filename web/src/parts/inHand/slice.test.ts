import type { Read } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import * as slice from './slice.ts';

const { readSlice } = slice;
const start = readSlice.getInitialState();
const from = (bits: string, at = '2026-11-01T10:00:00.000Z', id: string | null = null): slice.ReadInHand => ({
  bits,
  from: 'pasted, binary digits',
  at,
  id,
  readings: [],
});
const after = (...actions: Parameters<typeof readSlice.reducer>[1][]) => actions.reduce(readSlice.reducer, start);

describe('the read in hand', () => {
  it('a read that arrives is the latest and in hand; what was typed for another card is gone', () => {
    const state = after(
      slice.arrived(from('101')),
      slice.printedTyped('5'),
      slice.formatChosen('x'),
      slice.arrived(from('111')),
    );
    expect(state).toMatchObject({ inHand: { bits: '111' }, latest: { bits: '111' }, printed: '', formatId: null });
  });

  it('while a print is being typed, somebody else’s card waits; this page’s own does not', () => {
    const other = from('111', '2026-11-01T10:00:01.000Z', 'r2');
    const typing = [slice.arrived(from('101', undefined, 'r1')), slice.printedTyped('5')] as const;
    const held = after(...typing, slice.arrived(other));
    expect(held).toMatchObject({ inHand: { bits: '101' }, latest: { bits: '111' }, printed: '5', waiting: true });
    expect(readSlice.reducer(held, slice.chosen(other))).toMatchObject({ inHand: { bits: '111' }, waiting: false });
    // Before the first key, too, once the field has the focus.
    const focused = after(slice.arrived(from('101', undefined, 'r1')), slice.printFocused(true), slice.arrived(other));
    expect(focused.inHand!.bits).toBe('101');
    // The answer of a presentation made here may come before its read or after it.
    expect(after(...typing, slice.presentedHere('r2'), slice.arrived(other)).inHand!.bits).toBe('111');
    expect(after(...typing, slice.arrived(other), slice.presentedHere('r2')).inHand!.bits).toBe('111');
  });

  it('that is pinned stays, whatever is read or pasted, until another is chosen', () => {
    const own = from('111');
    const held = after(slice.arrived(from('101', undefined, 'r1')), slice.pinToggled(), slice.arrived(own));
    expect(held).toMatchObject({ inHand: { bits: '101' }, latest: { bits: '111' }, waiting: true });
    expect(readSlice.reducer(held, slice.presentedHere('r9')).awaited).toBeNull();
    expect(readSlice.reducer(held, slice.chosen(own))).toMatchObject({
      inHand: { bits: '111' },
      pinned: false,
      waiting: false,
    });
  });

  it('a print that was typed is there again when its read is', () => {
    const state = after(
      slice.arrived(from('101')),
      slice.printedTyped('5'),
      slice.arrived(from('111')),
      slice.printedTyped('77'),
      slice.chosen(from('101')),
    );
    expect([state.printed, state.prints]).toEqual(['5', { 111: '77' }]);
  });

  it('the same card held again keeps its print', () => {
    expect(after(slice.arrived(from('101')), slice.printedTyped('5'), slice.arrived(from('101'))).printed).toBe('5');
  });

  it('choosing an earlier read leaves the latest alone', () => {
    const state = after(slice.arrived(from('111')), slice.chosen(from('101')));
    expect([state.inHand!.bits, state.latest!.bits]).toEqual(['101', '111']);
  });

  it('what the server knows never replaces something newer', () => {
    const newer = from('111', '2026-11-01T11:00:00.000Z');
    const state = after(slice.arrived(newer), slice.latestKnown(from('101', '2026-11-01T10:00:00.000Z', 'r1')));
    expect(state.latest).toEqual(newer);
    expect(after(slice.latestKnown(from('101'))).inHand!.bits).toBe('101');
  });

  it('another reading of a paste takes its place, with all readings kept', () => {
    const readings = [
      { notation: 'UID', bits: '1100' },
      { notation: 'UID reversed', bits: '0011' },
    ];
    const state = after(slice.arrived({ ...from('1100'), readings }), slice.readingChosen(readings[1]!));
    expect(state.inHand).toMatchObject({ bits: '0011', from: 'pasted, UID reversed', readings });
  });

  it('a window marked on the tape goes when the print or the format changes', () => {
    expect(after(slice.arrived(from('101')), slice.windowChosen(1)).windowIndex).toBe(1);
    expect(after(slice.windowChosen(1), slice.printedTyped('7')).windowIndex).toBe(null);
    expect(after(slice.windowChosen(1), slice.formatChosen('x')).windowIndex).toBe(null);
  });

  it('the server’s identifier reaches the read that was pasted', () => {
    expect(after(slice.arrived(from('101')), slice.kept({ bits: '101', id: 'r7' })).inHand!.id).toBe('r7');
    expect(after(slice.arrived(from('101')), slice.kept({ bits: '111', id: 'r7' })).inHand!.id).toBe(null);
  });

  it('a read of the server says where it came from', () => {
    const read: Read = {
      id: 'r',
      at: 't',
      bits: '1',
      source: 'reader',
      notation: null,
      reader: { id: 'd', name: 'Desk pad' },
      decision: null,
    };
    expect(slice.inHandOf(read).from).toBe('Desk pad');
    expect(slice.inHandOf({ ...read, reader: null, decision: null, source: 'paste', notation: 'hex' }).from).toBe(
      'pasted, hex',
    );
  });
});
