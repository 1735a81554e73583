/** The specimens stacked, columns aligned, with their prints at the left and the verdict on each column below. */
import type { CaseSpecimen } from '@rawbits/api';
import { parseLayoutLine } from '@rawbits/core/format';
import type { GroupFinding } from '@rawbits/core/identify';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useMemo, useRef, useState } from 'react';
import { layOutTape, type TapeGeometry } from '../../parts/tape/geometry.ts';
import { drawingOf } from '../../parts/tape/ofFormat.ts';
import { Term } from '../../parts/term/Term.tsx';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import { columnInWords, MARK_SIGNS, markOf } from './columns.ts';
import { SpecimenDetails } from './SpecimenDetails.tsx';
import { SpecimenRow } from './SpecimenRow.tsx';
import { StackLegend } from './StackLegend.tsx';
import { Verdicts, verdictHeight } from './Verdicts.tsx';

const LEFT = 216;
const ROW = 30;
const HEADER = 34;
/** The line of words below the stack. */
const WORDS = 40;
/** So many specimens stand in sight before the stack scrolls, however little room there is. */
const ROWS_IN_SIGHT = 3;
const NO_SPANS = { spans: [], threads: [] };

interface StackProps {
  specimens: CaseSpecimen[];
  finding: GroupFinding | undefined;
  /** The layout laid over the stack. */
  layout: string | undefined;
  focusRow: number | undefined;
  onFocused: () => void;
  onChange: (row: number, part: Partial<CaseSpecimen>) => void;
  onTyped: (specimen: CaseSpecimen, printed: string) => void;
  onRemove: (row: number) => void;
}

export function Stack({ specimens, finding, layout, focusRow, onFocused, onChange, onTyped, onRemove }: StackProps) {
  const [box, width] = useElementWidth<HTMLDivElement>();
  const scroller = useRef<HTMLDivElement>(null);
  const [column, setColumn] = useState<number>();
  const [opened, setOpened] = useState<number>();
  const length = finding?.length ?? Math.max(1, ...specimens.map((s) => s.bits.length));
  const geometry = useStackGeometry(layout, length, width);
  const strip = finding ? verdictHeight(geometry) : 0;
  const rows = useRows(scroller, specimens.length, strip, focusRow, onFocused);
  if (specimens.length === 0) return <NoSpecimen />;
  const onMove = (event: PointerEvent) => {
    const left = scroller.current!.getBoundingClientRect().left - scroller.current!.scrollLeft + LEFT;
    const at = geometry.positionAt(event.clientX - left, geometry.lines[0]!.cellY + 4);
    if (at !== undefined && at !== column) setColumn(at);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const next = event.target instanceof HTMLInputElement ? undefined : columnAfter(event.key, column, length);
    if (next === undefined) return;
    event.preventDefault();
    setColumn(next);
  };
  const lineWidth = LEFT + geometry.xOf(length) + geometry.cell.width + 8;
  return (
    <>
      <section
        ref={box}
        className="panel flex max-h-[50%] shrink flex-col print:hidden"
        style={{ minHeight: HEADER + Math.min(specimens.length, ROWS_IN_SIGHT) * ROW + strip + WORDS }}
        aria-label="Specimens"
      >
        {/* biome-ignore lint/a11y/useSemanticElements: a stack of tapes is no fieldset */}
        <div
          ref={scroller}
          role="group"
          aria-label={`${specimens.length} specimens of ${length} bits. Left and right move over the columns`}
          aria-describedby="column-words"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: the whole stack is one tab stop and takes arrow keys
          tabIndex={0}
          onKeyDown={onKeyDown}
          onPointerMove={onMove}
          className="min-h-0 flex-1 overflow-auto"
          data-testid="stack"
        >
          <div style={{ width: lineWidth }} className="relative">
            <div className="sticky top-0 z-10 bg-base-100" style={{ height: HEADER }}>
              <Header geometry={geometry} finding={finding} column={column} />
            </div>
            <div style={{ height: rows.getTotalSize() }} />
            {rows.getVirtualItems().map((item) => (
              <SpecimenRow
                key={item.key}
                row={item.index}
                specimen={specimens[item.index]!}
                top={item.start}
                height={ROW}
                left={LEFT}
                geometry={geometry}
                length={length}
                column={column}
                suspect={finding?.suspects.find((s) => s.rows.includes(item.index + 1))?.words}
                onChange={(part) => onChange(item.index, part)}
                onTyped={onTyped}
                onRemove={() => onRemove(item.index)}
                onOpen={() => setOpened(opened === item.index ? undefined : item.index)}
              />
            ))}
            {finding && (
              <div className="sticky bottom-0 z-10 bg-base-100" style={{ height: strip }}>
                <Verdicts geometry={geometry} finding={finding} left={LEFT} column={column} />
              </div>
            )}
          </div>
        </div>
        <div className="flex min-h-6 items-baseline gap-x-3 border-t border-faint px-3 py-0.5 text-ink-2">
          <StackLegend />
          <p id="column-words" aria-live="polite" data-testid="column-words">
            {finding &&
              (column
                ? columnInWords(finding, column)
                : 'Point at a column, or use the arrow keys, to see what is known of it.')}
          </p>
        </div>
      </section>
      {opened !== undefined && specimens[opened] && (
        <SpecimenDetails
          key={opened}
          row={opened}
          specimen={specimens[opened]}
          onChange={(part) => onChange(opened, part)}
          onClose={() => setOpened(undefined)}
        />
      )}
    </>
  );
}

/** Columns wide enough that all of them stand on one line; what does not fit is scrolled to. */
function useStackGeometry(layout: string | undefined, length: number, width: number): TapeGeometry {
  return useMemo(() => {
    const drawing = layout ? drawingOf(parseLayoutLine(layout), undefined, (p) => p) : NO_SPANS;
    const least = length * 17 + Math.floor(length / 8) * 7 + 8;
    return layOutTape({
      length,
      width: Math.max(width - LEFT - 24, least),
      spans: drawing.spans,
      threads: [],
      largestCell: 24,
    });
  }, [layout, length, width]);
}

/** The rows in sight: the newest when a case is opened, and the one whose print is to be typed. */
function useRows(
  scroller: RefObject<HTMLDivElement | null>,
  count: number,
  strip: number,
  focusRow: number | undefined,
  onFocused: () => void,
) {
  const rows = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
    // What stands over the rows at the top and below them, so that a row scrolled to is in sight between the two.
    scrollMargin: HEADER,
    scrollPaddingStart: HEADER,
    scrollPaddingEnd: strip,
  });
  const newest = count - 1;
  useEffect(() => {
    // The newest specimen is in sight when a case is opened, and stays so when the strip below it grows.
    if (newest >= 0 && strip >= 0) rows.scrollToIndex(newest, { align: 'end' });
  }, [newest, strip, rows]);
  useEffect(() => {
    // Where the last row is in sight it stays so, whatever comes above the stack and makes it lower.
    const own = scroller.current;
    if (!own || newest < 0) return;
    let isAtEnd = true;
    const onScroll = () => {
      isAtEnd = own.scrollTop + own.clientHeight >= own.scrollHeight - ROW / 2;
    };
    const observer = new ResizeObserver(() => isAtEnd && rows.scrollToIndex(newest, { align: 'end' }));
    own.addEventListener('scroll', onScroll);
    observer.observe(own);
    return () => {
      own.removeEventListener('scroll', onScroll);
      observer.disconnect();
    };
  }, [newest, rows, scroller]);
  useEffect(() => {
    if (focusRow === undefined) return;
    rows.scrollToIndex(focusRow, { align: 'end' });
    const timer = setTimeout(() => {
      scroller.current?.querySelector<HTMLInputElement>(`[data-print="${focusRow}"]`)?.focus();
      onFocused();
    }, 60);
    return () => clearTimeout(timer);
  }, [focusRow, rows, scroller, onFocused]);
  return rows;
}

/** The column that a key leads to, from 1. */
function columnAfter(key: string, column: number | undefined, length: number): number | undefined {
  const places: Record<string, number> = {
    Home: 1,
    End: length,
    ArrowLeft: (column ?? 0) - 1,
    ArrowRight: (column ?? 0) + 1,
  };
  const place = places[key];
  return place === undefined ? undefined : Math.min(length, Math.max(1, place));
}

function NoSpecimen() {
  return (
    <section className="panel p-4 print:hidden" aria-label="Specimens">
      <p>
        No <Term word="specimen">specimen</Term> yet. Press <strong>Take cards</strong>, hold a card to a reader, and
        type what is printed on it. Two or three cards with numbers far apart say more than ten neighbours.
      </p>
    </section>
  );
}

/** The ruler, and for each column its mark: never changes, changes, follows from others. */
function Header({
  geometry,
  finding,
  column,
}: {
  geometry: TapeGeometry;
  finding: GroupFinding | undefined;
  column: number | undefined;
}) {
  const { cell, group, xOf } = geometry;
  const length = geometry.lines[0]!.to;
  const centre = (p: number) => LEFT + xOf(p) + cell.width / 2;
  const positions = Array.from({ length }, (_, i) => i + 1);
  return (
    <svg width={LEFT + xOf(length) + cell.width + 8} height={34} aria-hidden="true" className="block">
      <text x="2.5rem" y={29} fontSize={11} className="fill-ink-2">
        print
      </text>
      <text x="9.6rem" y={29} fontSize={11} className="fill-ink-2">
        aside
      </text>
      {positions
        .filter((p) => (p - 1) % group === 0 || p === length || p === column)
        .map((p) => (
          <text
            key={p}
            x={centre(p)}
            y={13}
            textAnchor="middle"
            fontSize={11}
            className={p === column ? 'fill-base-content font-bold' : 'fill-ink-2'}
          >
            {p}
          </text>
        ))}
      {finding?.bits.map((bit) => (
        <text key={bit.at} x={centre(bit.at)} y={29} textAnchor="middle" fontSize={12} className="fill-ink-2">
          {MARK_SIGNS[markOf(bit)]}
        </text>
      ))}
    </svg>
  );
}
