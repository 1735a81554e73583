/** The numbers of one facility code: where boxes and cards stand, and the next run that is free. */
import type { Box, NumberMap as NumberMapShown, NumberLine as OfLine } from '@rawbits/api';
import type { CardState } from '@rawbits/core/access';
import { type ReactNode, useEffect, useState } from 'react';
import { useCodes } from '../../../parts/facility/codeNames.ts';
import { type Range, roundAbout, zoomed } from '../../../parts/numberLine/geometry.ts';
import { NumberLegend } from '../../../parts/numberLine/NumberLegend.tsx';
import { NumberLine } from '../../../parts/numberLine/NumberLine.tsx';
import { useFreeRunQuery, useNumberLinesQuery, useNumberMapQuery } from '../../../platform/endpoints/boxes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { statesInWords } from './BoxTable.tsx';

export type Line = Pick<OfLine, 'formatId' | 'facility'>;

interface Props {
  /** Undefined where nobody chose one: then the one with most cards. */
  line: Line | undefined;
  onLine: (line: Line) => void;
  /** Those that are listed: the line begins about them. */
  boxes: readonly Box[];
  box: Box | undefined;
  onBox: (id: string) => void;
  /** Enters a box of a free run; undefined where that is not allowed. */
  onFree: ((line: Line, run: Range) => void) | undefined;
}

const keyOf = ({ formatId, facility }: Line): string => `${formatId} ${facility ?? ''}`;
/** What is beyond the greatest number of any format: the server cuts it to the format's own. */
const BEYOND = '9'.repeat(59);

export function NumberMap({ line, onLine, boxes, box, onBox, onFree }: Props) {
  const { id } = useSite();
  const { data: lines = [] } = useNumberLinesQuery(id);
  const codeOf = useCodes();
  const newest = boxes[0];
  const wanted = line ?? newest;
  const shown = lines.find((one) => wanted && keyOf(one) === keyOf(wanted)) ?? lines[0];
  if (!shown) return null;
  const { formatId, facility } = shown;
  return (
    <section className="panel flex flex-col gap-1 p-3" aria-label="Numbers">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h2>Numbers of</h2>
        <select
          className="select w-96 max-w-full"
          aria-label="Facility code and format"
          value={keyOf(shown)}
          onChange={(event) => onLine(lines.find((one) => keyOf(one) === event.target.value)!)}
        >
          {lines.map((one) => (
            <option key={keyOf(one)} value={keyOf(one)}>
              {one.facility === null ? 'no code' : `code ${one.facility}`}
              {codeOf(one.facility, one.formatId) ? `, ${codeOf(one.facility, one.formatId)!.name}` : ''} ·{' '}
              {one.formatId}
            </option>
          ))}
        </select>
        <span className="ml-auto">
          <NumberLegend />
        </span>
      </div>
      <OnLine
        key={keyOf(shown)}
        line={shown}
        boxes={boxes.filter((one) => keyOf(one) === keyOf(shown))}
        box={box && keyOf(box) === keyOf(shown) ? box : undefined}
        onBox={onBox}
      >
        <Free line={{ formatId, facility }} onFree={onFree} />
      </OnLine>
    </section>
  );
}

interface OnLineProps extends Pick<Props, 'boxes' | 'box' | 'onBox'> {
  line: OfLine;
  children: ReactNode;
}

/** What the boxes reach from and to; all on file where there are none. */
function aboutBoxes(line: OfLine, boxes: readonly Box[]): Range {
  if (boxes.length === 0) return roundAbout(line.least, line.greatest, BigInt(BEYOND));
  const least = boxes.map(({ first }) => BigInt(first)).reduce((a, b) => (a < b ? a : b));
  const greatest = boxes.map(({ last }) => BigInt(last)).reduce((a, b) => (a > b ? a : b));
  return roundAbout(least.toString(), greatest.toString(), BigInt(BEYOND));
}

/** The cards of every part together. */
function statesIn({ parts }: NumberMapShown): Box['states'] {
  const sum: Box['states'] = {};
  for (const { states } of parts)
    for (const [state, cards] of Object.entries(states) as [CardState, number][])
      sum[state] = (sum[state] ?? 0) + cards;
  return sum;
}

function OnLine({ line, boxes, box, onBox, children }: OnLineProps) {
  const { id } = useSite();
  const whole = roundAbout(line.least, line.greatest, BigInt(BEYOND));
  const about = aboutBoxes(line, boxes);
  const [range, setRange] = useState<Range>();
  const { formatId: format, facility } = line;
  const asked = range ?? about;
  const { data: map, error } = useNumberMapQuery({
    site: id,
    format,
    ...(facility !== null && { facility }),
    ...asked,
  });
  const most = BigInt(map?.most ?? line.greatest);
  // A box that is chosen comes into sight, with as much again around it.
  const [first, last] = [box?.first, box?.last];
  useEffect(() => {
    if (first === undefined || last === undefined || map === undefined) return;
    const own = { from: first, to: last };
    setRange((now) => {
      const seen = now ?? map;
      const isIn = BigInt(seen.from) <= BigInt(first) && BigInt(last) <= BigInt(seen.to);
      return isIn ? now : zoomed(own, 2, (BigInt(first) + BigInt(last)) / 2n, most);
    });
  }, [first, last, map, most]);
  if (!map) return <FailureNote failure={error} />;
  const middle = (BigInt(map.from) + BigInt(map.to)) / 2n;
  return (
    <>
      <NumberLine
        map={map}
        most={most}
        label={`Numbers ${map.from} to ${map.to}; plus and minus zoom`}
        onRange={setRange}
        chosenBox={box?.id}
        onBox={onBox}
      />
      <div className="flex flex-wrap items-center gap-3">
        <span className="text-ink-2">in sight: {statesInWords(statesIn(map))}</span>
        <button type="button" className="switch-link" onClick={() => setRange(zoomed(map, 0.5, middle, most))}>
          closer
        </button>
        <button type="button" className="switch-link" onClick={() => setRange(zoomed(map, 2, middle, most))}>
          further away
        </button>
        <button type="button" className="switch-link" onClick={() => setRange(whole)}>
          all on file
        </button>
        <button type="button" className="switch-link" onClick={() => setRange({ from: '0', to: most.toString() })}>
          the whole format
        </button>
        {children}
        {map.moreBoxes && <span className="text-signal">More boxes stand here than are drawn: look closer.</span>}
      </div>
    </>
  );
}

function Free({ line: { formatId, facility }, onFree }: { line: Line; onFree: Props['onFree'] }) {
  const { id } = useSite();
  const [typed, setTyped] = useState('100');
  const count = /^\d{1,6}$/.test(typed) && Number(typed) >= 1 && Number(typed) <= 100_000 ? Number(typed) : undefined;
  const { data } = useFreeRunQuery(
    { site: id, format: formatId, ...(facility !== null && { facility }), from: '1', count },
    { skip: count === undefined },
  );
  const free = count === undefined ? undefined : data?.free;
  return (
    <p className="ml-auto flex flex-wrap items-center gap-2 text-ink-2">
      <label className="flex items-center gap-2">
        Lowest free run of
        <input
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          inputMode="numeric"
          className="input w-24 font-mono text-base-content"
          aria-invalid={count === undefined}
        />
        numbers
      </label>
      {count === undefined ? (
        <span className="text-signal">from 1 to 100,000</span>
      ) : free ? (
        <>
          <strong className="font-mono text-base-content" data-testid="free-run">
            {free.from} – {free.to}
          </strong>
          {onFree && (
            <button type="button" className="switch-link" onClick={() => onFree({ formatId, facility }, free)}>
              enter a box of these
            </button>
          )}
        </>
      ) : (
        data && <span className="text-signal">none up to {data.searchedTo}</span>
      )}
    </p>
  );
}
