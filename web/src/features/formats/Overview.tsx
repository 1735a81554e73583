/** A format on the tape, with its layout line and its masks. */
import type { SiteFormat } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode, greatestOf } from '@rawbits/core/codec';
import { isSound, labelOf, masksOf, nameOf, positionsOf, printInWords, type Span } from '@rawbits/core/format';
import { useMemo } from 'react';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import { drawingOf } from '../../parts/tape/ofFormat.ts';
import { Tape } from '../../parts/tape/Tape.tsx';
import { useLazyExportFormatsQuery } from '../../platform/endpoints/formats.ts';
import { download } from '../../platform/files/download.ts';
import { useAppSelector } from '../../platform/state/hooks.ts';

export function Overview({ entry }: { entry: SiteFormat }) {
  const { format, layout } = entry;
  const latest = useAppSelector((state) => state.read.latest);
  const fitting = latest?.bits.length === format.bits;
  const shown = useMemo(
    () => (fitting ? Bits.fromBinary(latest!.bits) : Bits.build(format.bits, () => 0)),
    [fitting, latest, format.bits],
  );
  const drawing = useMemo(
    () => drawingOf(format, fitting && isSound(format) ? decode(shown, format) : undefined, (p) => p),
    [format, fitting, shown],
  );
  const [exportFormats] = useLazyExportFormatsQuery();
  const keep = async () => {
    const { data } = await exportFormats({ kind: 'json', ids: format.id });
    if (data) download(data.name, data.text, 'application/json');
  };
  return (
    <>
      <div>
        <p className="text-ink-2">
          {fitting
            ? `On the latest read, from ${latest!.from}`
            : 'Its structure; hold or paste a read of this length to see values'}
        </p>
        <Tape
          bits={shown.toBinary()}
          label={`Structure of ${format.name}`}
          spans={drawing.spans}
          threads={drawing.threads}
          bare
        />
      </div>
      <p className="flex items-start gap-1">
        <span className="sr-only">Layout line: </span>
        <code className="min-w-0 font-mono break-words">{layout}</code>
        <CopyButton text={layout} what="layout line" />
        <button type="button" className="switch-link ml-auto whitespace-nowrap" onClick={() => void keep()}>
          export as JSON
        </button>
      </p>
      <SpanTable entry={entry} />
      <p className="text-ink-2">
        Source: {format.source ?? 'not given'}. {format.notes} Nothing in a format is secret: what is sent over the line
        or the air in clear can be copied by anyone with a reader. For a new site, choose a credential with keys.
      </p>
    </>
  );
}

function meaningOf(span: Span): string {
  if (span.role === 'parity') return `${span.sense} parity over ${span.covers}`;
  if (span.role === 'check') return `check over ${span.covers}`;
  if (span.role === 'fixed') return `always ${span.bits}`;
  return `0 to ${greatestOf(span).toLocaleString('en')}${'written' in span && span.written ? `, written in ${span.written}` : ''}`;
}

function SpanTable({ entry }: { entry: SiteFormat }) {
  const { format } = entry;
  const masks = useMemo(() => masksOf(format), [format]);
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>bits</th>
          <th>what</th>
          <th>width</th>
          <th>holds</th>
          <th>mask, hex right-justified</th>
          <th aria-label="copy" />
        </tr>
      </thead>
      <tbody>
        {format.spans.map((span) => {
          const mask = masks[labelOf(span) ?? `${span.role}@${span.at}`];
          return (
            <tr key={`${span.role} ${span.at}`}>
              <td className="font-mono">{span.at}</td>
              <td className="whitespace-nowrap">{nameOf(span)}</td>
              <td className="font-mono">{positionsOf(span.at).length}</td>
              <td>{meaningOf(span)}</td>
              <td className="font-mono break-all">{mask?.toHex() ?? ''}</td>
              <td className="py-0!">
                {mask && <CopyButton text={mask.toBinary()} what={`mask of ${nameOf(span)} in binary`} />}
              </td>
            </tr>
          );
        })}
        {format.facility !== undefined && (
          <tr>
            <td>none</td>
            <td>facility</td>
            <td />
            <td colSpan={3}>always {format.facility}; no bit carries it</td>
          </tr>
        )}
        {format.print && (
          <tr>
            <td>none</td>
            <td>print</td>
            <td />
            <td colSpan={3}>its cards have {printInWords(format.print)} printed on them</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
