/** A few cards of a box held to a reader: whether they are what its label says, and which to present next. */

import { Bits } from '@rawbits/core/bits';
import { againstLabel, type BoxLabel, type Verdict } from '@rawbits/core/box';
import { failureOf } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { useMemo, useState } from 'react';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useReadsSince } from '../useReadsSince.ts';

export function AgainstLabel({ format, label }: { format: Format; label: BoxLabel }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <section className="flex flex-col gap-2 border-t border-faint pt-3" aria-label="Against its label">
      {isOpen ? (
        <Checking format={format} label={label} />
      ) : (
        <button type="button" className="btn btn-line self-start" onClick={() => setOpen(true)}>
          Check cards against the label
        </button>
      )}
    </section>
  );
}

function Checking({ format, label }: { format: Format; label: BoxLabel }) {
  const { id: site } = useSite();
  const { data: library } = useFormatsQuery(site);
  const reads = useReadsSince();
  const [prints, setPrints] = useState<Record<string, string>>({});
  const found = useMemo(() => {
    try {
      const presented = reads.map((bits) => ({ bits: Bits.fromBinary(bits), printed: prints[bits] ?? '' }));
      // Of formats that fit alike, one that the site uses is named first.
      const known = [...(library ?? [])].sort((a, b) => Number(b.adopted) - Number(a.adopted));
      return againstLabel(
        format,
        label,
        known.map((f) => f.format),
        presented,
      );
    } catch (error) {
      return failureOf(error).message;
    }
  }, [format, label, library, reads, prints]);
  if (typeof found === 'string') return <p className="text-signal">{found}</p>;
  const wrong = found.verdicts.filter(({ is }) => is !== 'of the box').length;
  return (
    <>
      <h3 className="font-bold">Against its label</h3>
      {reads.length === 0 ? (
        <p className="text-ink-2" role="status">
          Hold cards of the box to a reader, or paste their reads. Begin with the first ({label.first}) and the last (
          {label.last}): a range that is off shows there.
        </p>
      ) : (
        <p role="status" data-testid="label-verdict" className={wrong > 0 ? 'text-signal' : undefined}>
          {inSum(found, wrong)}
        </p>
      )}
      {found.next.length > 0 && reads.length > 0 && (
        <p className="text-ink-2">
          To present next:{' '}
          {found.next.map(({ number, why }, i) => (
            <span key={number}>
              {i > 0 && ', '}
              <strong className="font-mono text-base-content">{number}</strong> ({WHY[why]})
            </span>
          ))}
          .
        </p>
      )}
      <ul className="flex flex-col gap-1">
        {reads.map((bits, i) => (
          <li key={bits} className="flex flex-wrap items-center gap-2">
            <span className={found.verdicts[i]!.is === 'of the box' ? '' : 'text-signal'}>
              {verdictInWords(found.verdicts[i]!)}
            </span>
            <input
              value={prints[bits] ?? ''}
              onChange={({ target: { value } }) => setPrints((known) => ({ ...known, [bits]: value }))}
              placeholder="its print"
              aria-label={`Print of the card read as ${bits}`}
              className="input ml-auto w-28 font-mono"
            />
          </li>
        ))}
      </ul>
    </>
  );
}

const WHY = {
  'the first': 'the first',
  'the last': 'the last',
  'parts the formats': 'another format has the rest alike',
};

function inSum({ agreeing, wouldHaveShown, next, alike }: ReturnType<typeof againstLabel>, wrong: number): string {
  if (wrong > 0) return `${wrong} of ${wrong + agreeing} cards ${wrong === 1 ? 'is' : 'are'} not what the label says.`;
  const seen = `${agreeing} ${agreeing === 1 ? 'card is' : 'cards are'} what the label says.`;
  const label =
    alike.length > 0
      ? `Whether they are of this format or of ${alike.join(', ')} this box cannot tell: its cards are the same under both.`
      : next.length === 0
        ? 'A wrong label would have shown.'
        : `A wrong label shows after ${next.length} more.`;
  const mixed =
    wouldHaveShown === null
      ? ''
      : ` Of ${wouldHaveShown} or more other cards mixed in, one would have shown with 95 %.`;
  return `${seen} ${label}${mixed}`;
}

export function verdictInWords(verdict: Verdict): string {
  switch (verdict.is) {
    case 'of the box':
      return `${verdict.number}: of this box`;
    case 'printed otherwise':
      return `${verdict.number}: by the label ${verdict.expected} is printed on it`;
    case 'outside the range':
      return `${verdict.number}: outside the range of the label`;
    case 'another code':
      return `${verdict.number}: its facility code is ${verdict.facility}`;
    case 'another value':
      return `${verdict.number}: its ${verdict.label} is ${verdict.value}`;
    case 'another format': {
      const [best] = verdict.fits;
      if (!best) return 'not of this format, nor of any in the library';
      const number = best.number === null ? '' : ` ${best.facility === null ? '' : `${best.facility}/`}${best.number}`;
      return `not of this format: ${best.format}${number}`;
    }
  }
}
