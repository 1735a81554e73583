/** Read: a credential's bits, decoded every way that fits. */
import { Bits } from '@rawbits/core/bits';
import type { Window } from '@rawbits/core/identify';
import { useDeferredValue, useLayoutEffect, useMemo } from 'react';
import { useCodes } from '../../parts/facility/codeNames.ts';
import { countChosen, orderChosen, pinToggled, type TapeOrder } from '../../parts/inHand/slice.ts';
import { Pulses } from '../../parts/pulses/Pulses.tsx';
import type { TapeSpan } from '../../parts/tape/geometry.ts';
import { drawingOf } from '../../parts/tape/ofFormat.ts';
import { Tape } from '../../parts/tape/Tape.tsx';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { Elsewhere } from './Elsewhere.tsx';
import { Fits } from './Fits.tsx';
import { History } from './History.tsx';
import { LaterRead } from './LaterRead.tsx';
import { NoRead } from './NoRead.tsx';
import { Printed } from './Printed.tsx';
import { Readings } from './Readings.tsx';
import { inOrder, type ReadView, shownAt, viewOf } from './view.ts';
import { WhatPrintTells } from './WhatPrintTells.tsx';

export function ReadScreen() {
  const clock = useClock();
  const { inHand, printed, formatId, windowIndex, order, countFrom } = useAppSelector((state) => state.read);
  const { id } = useSite();
  const { data: formats } = useFormatsQuery(id);
  const typed = useDeferredValue(printed);
  const view = useMemo(
    () => inHand && viewOf(inHand.bits, formats, typed, formatId),
    [inHand, formats, typed, formatId],
  );
  useLayoutEffect(() => {
    const taken = performance.getEntriesByName('read-taken').at(-1);
    if (!inHand || !taken) return;
    // Taken off at once, so that no other read is measured by it; the frame after this one is the first that shows the fits.
    performance.clearMarks('read-taken');
    requestAnimationFrame(() => {
      performance.measure('read-to-fits', { start: taken.startTime });
    });
  }, [inHand]);
  if (!inHand || !view) return <NoRead />;
  const pulses = inHand.readings.find(({ bits }) => bits === inHand.bits)?.pulses;
  return (
    <div className="@container flex h-full min-h-[38rem] flex-col gap-3 p-4 px-5 max-md:h-auto max-sm:px-2">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1>
          {inHand.bits.length} {inHand.bits.length === 1 ? 'bit' : 'bits'} from{' '}
          {inHand.from.startsWith('pasted') ? 'a paste' : inHand.from}
        </h1>
        <span className="text-ink-2">
          {inHand.from.startsWith('pasted') ? `${inHand.from} · ` : 'Wiegand · '}
          {clock(inHand.at)}
        </span>
        <Pin />
        <TapeSwitches length={inHand.bits.length} />
      </div>
      <LaterRead />
      {(inHand.readings.length > 1 || inHand.readings[0]?.note) && <Readings />}
      {pulses && <Pulses pulses={pulses} />}
      <section
        className="panel max-h-[52%] shrink-0 overflow-y-auto px-4 pt-2 pb-2 max-md:max-h-none"
        aria-label="Tape"
      >
        <TapeOfRead binary={inHand.bits} view={view} windowIndex={windowIndex} order={order} countFrom={countFrom} />
      </section>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,5fr)_minmax(0,4fr)_minmax(0,3fr)] gap-3 [grid-template-areas:'fits_print_history'] @max-[72rem]:grid-cols-[minmax(0,6fr)_minmax(0,5fr)] @max-[72rem]:grid-rows-[auto_minmax(10rem,1fr)] @max-[72rem]:[grid-template-areas:'fits_print'_'history_print'] @max-[44rem]:flex @max-[44rem]:flex-col">
        <Fits view={view} inHand={inHand} />
        <div className="panel [grid-area:print] flex min-h-0 @max-[44rem]:order-first flex-col gap-3 overflow-auto p-3">
          <Printed view={view} />
          <WhatPrintTells inHand={inHand} printed={typed} view={view} />
          <Elsewhere bits={inHand.bits} />
        </div>
        <History current={inHand} />
      </div>
    </div>
  );
}

/** Keeps the read in hand, whatever comes in, until another is chosen. */
function Pin() {
  const pinned = useAppSelector((state) => state.read.pinned);
  const dispatch = useAppDispatch();
  return (
    <button
      type="button"
      className="switch-link"
      aria-pressed={pinned}
      title={pinned ? 'Later reads wait until you take them' : 'Later reads wait, and this one stays in hand'}
      onClick={() => dispatch(pinToggled())}
    >
      {pinned ? 'kept in hand' : 'keep in hand'}
    </button>
  );
}

function TapeOfRead({
  binary,
  view,
  windowIndex,
  order,
  countFrom,
}: {
  binary: string;
  view: ReadView;
  windowIndex: number | null;
  order: TapeOrder;
  countFrom: 'first' | 'last';
}) {
  const named = useCodes()(view.chosen?.values.facility, view.chosen?.format.id)?.name;
  const { shown, drawing } = useMemo(() => {
    const bits = Bits.fromBinary(binary);
    const place = shownAt(order, bits.length);
    const window = view.windows[windowIndex ?? (view.chosen ? -1 : 0)];
    const drawing =
      window || !view.chosen
        ? { spans: window ? [foundSpan(window, place)] : [], threads: [] }
        : drawingOf(view.chosen.format, view.chosen, place, named);
    return { shown: inOrder(bits, order).toBinary(), drawing };
  }, [binary, view, windowIndex, order, named]);
  return (
    <Tape
      bits={shown}
      label={`Tape of ${binary.length} bits`}
      spans={drawing.spans}
      threads={drawing.threads}
      countFrom={countFrom}
    />
  );
}

/** A window that holds the print, as a bracket. */
function foundSpan(window: Window, place: (arrival: number) => number): TapeSpan {
  const positions = Array.from({ length: window.to - window.from + 1 }, (_, i) => place(window.from + i));
  return { id: 'found', look: 'found', positions, name: `the print, ${window.order}` };
}

function TapeSwitches({ length }: { length: number }) {
  const { order, countFrom } = useAppSelector((state) => state.read);
  const dispatch = useAppDispatch();
  const orders: TapeOrder[] =
    length % 8 === 0
      ? ['as sent', 'bytes reversed', 'bits reversed', 'inverted']
      : ['as sent', 'bits reversed', 'inverted'];
  return (
    <div className="ml-auto flex flex-wrap items-baseline gap-x-2">
      <span className="text-ink-2">count from</span>
      {(['first', 'last'] as const).map((from) => (
        <button
          key={from}
          type="button"
          className="switch-link"
          aria-pressed={countFrom === from}
          onClick={() => dispatch(countChosen(from))}
        >
          {from}
        </button>
      ))}
      <span className="ml-3 text-ink-2">show</span>
      {orders.map((name) => (
        <button
          key={name}
          type="button"
          className="switch-link"
          aria-pressed={order === name}
          onClick={() => dispatch(orderChosen(name))}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
