/** Versions of a format: what changed and why, any two compared on the tape and on the reads on file. */

import type { LibraryFormat, SiteChange, SiteFormat } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode } from '@rawbits/core/codec';
import { isSound } from '@rawbits/core/format';
import { useMemo, useState } from 'react';
import { DryRunPanel } from '../../parts/dryRun/DryRunPanel.tsx';
import { drawingOf } from '../../parts/tape/ofFormat.ts';
import { Tape } from '../../parts/tape/Tape.tsx';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useSetRetiredMutation, useVersionsQuery } from '../../platform/endpoints/formats.ts';
import { useReadsQuery } from '../../platform/endpoints/reads.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

export function Versions({ entry }: { entry: SiteFormat }) {
  const clock = useClock();
  const { may } = useSite();
  const { data: versions = [], error } = useVersionsQuery(entry.format.id);
  const [pair, setPair] = useState<[number, number]>();
  const [change, setChange] = useState<SiteChange>();
  const dispatch = useAppDispatch();
  const [older, newer] = pair ?? [versions[1]?.version ?? 0, versions[0]?.version ?? 0];
  const [a, b] = [versions.find((v) => v.version === older), versions.find((v) => v.version === newer)];
  if (change)
    return (
      <DryRunPanel
        change={change}
        title={`take up version ${change.kind === 'version' ? change.version : ''} of ${entry.format.name}`}
        onSaved={() => {
          setChange(undefined);
          dispatch(said('The site uses the other version; load the doors'));
        }}
        onClose={() => setChange(undefined)}
      />
    );
  return (
    <div className="flex flex-col gap-4">
      <FailureNote failure={error} />
      <table className="grid-table" data-testid="versions">
        <thead>
          <tr>
            <th>version</th>
            <th>layout</th>
            <th>why</th>
            <th>by</th>
            <th>proven on</th>
            <th>compare</th>
            <th aria-label="use" />
          </tr>
        </thead>
        <tbody>
          {versions.map((v) => (
            <tr key={v.version} aria-selected={entry.adopted && v.version === entry.version}>
              <td className="font-mono">{v.version}</td>
              <td className="font-mono break-words">{v.layout}</td>
              <td>{v.reason}</td>
              <td>
                {v.createdBy}, {clock(v.createdAt)}
              </td>
              <td>{v.provenOn === 0 ? 'no card' : `${v.provenOn} ${v.provenOn === 1 ? 'card' : 'cards'}`}</td>
              <td className="whitespace-nowrap">
                <Choice name="older" version={v.version} chosen={older} onChoose={() => setPair([v.version, newer])} />
                <Choice name="newer" version={v.version} chosen={newer} onChoose={() => setPair([older, v.version])} />
              </td>
              <td>
                {entry.adopted && v.version === entry.version ? (
                  <span className="tag text-primary">in use here</span>
                ) : (
                  entry.adopted &&
                  may('use formats') && (
                    <button
                      type="button"
                      className="btn btn-line btn-small"
                      onClick={() => setChange({ kind: 'version', format: entry.format.id, version: v.version })}
                    >
                      Use this one …
                    </button>
                  )
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {a && b && a !== b && <Comparison older={a} newer={b} />}
      {may('define formats') && <Retire entry={entry} />}
    </div>
  );
}

function Choice({
  name,
  version,
  chosen,
  onChoose,
}: {
  name: string;
  version: number;
  chosen: number;
  onChoose: () => void;
}) {
  return (
    <label className="mr-2 inline-flex items-center gap-1">
      <input
        type="radio"
        name={name}
        className="radio radio-xs"
        checked={version === chosen}
        onChange={onChoose}
        aria-label={`version ${version} as the ${name}`}
      />
      {name}
    </label>
  );
}

function Comparison({ older, newer }: { older: LibraryFormat; newer: LibraryFormat }) {
  const { id: site } = useSite();
  const { data: reads = [] } = useReadsQuery({ site, limit: 500 });
  const rows = useMemo(
    () =>
      ![older, newer].every(({ format }) => isSound(format))
        ? []
        : [...new Map(reads.map((read) => [read.bits, read])).values()]
            .filter((read) => read.bits.length === older.format.bits || read.bits.length === newer.format.bits)
            .map((read) => {
              const bits = Bits.fromBinary(read.bits);
              return { read, a: decode(bits, older.format), b: decode(bits, newer.format) };
            }),
    [reads, older, newer],
  );
  const differing = rows.filter(({ a, b }) => a.fit !== b.fit || JSON.stringify(a.values) !== JSON.stringify(b.values));
  return (
    <div className="flex flex-col gap-3" data-testid="comparison">
      {[older, newer].map((version) => (
        <VersionTape key={version.version} version={version} sample={rows[0]?.read.bits} />
      ))}
      <p>
        {rows.length === 0
          ? 'No read on file has this length.'
          : `${differing.length} of ${rows.length} different reads on file are not the same under both.`}
      </p>
      {differing.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th>read</th>
              <th>version {older.version}</th>
              <th>version {newer.version}</th>
            </tr>
          </thead>
          <tbody>
            {differing.slice(0, 50).map(({ read, a, b }) => (
              <tr key={read.id}>
                <td className="font-mono break-all">{Bits.fromBinary(read.bits).toHex()}</td>
                {[a, b].map((decoded, i) => (
                  <td key={i === 0 ? 'older' : 'newer'}>
                    {decoded.fit} fit ·{' '}
                    {Object.entries(decoded.values)
                      .map(([label, value]) => `${label} ${value}`)
                      .join(', ')}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function VersionTape({ version, sample }: { version: LibraryFormat; sample: string | undefined }) {
  const { format } = version;
  const bits = useMemo(
    () => (sample?.length === format.bits ? Bits.fromBinary(sample) : Bits.build(format.bits, () => 0)),
    [sample, format.bits],
  );
  const drawing = useMemo(
    () =>
      drawingOf(format, sample?.length === format.bits && isSound(format) ? decode(bits, format) : undefined, (p) => p),
    [format, bits, sample],
  );
  return (
    <div>
      <h3 className="font-bold">Version {version.version}</h3>
      <Tape
        bits={bits.toBinary()}
        label={`Version ${version.version}`}
        spans={drawing.spans}
        threads={drawing.threads}
        largestCell={24}
        bare
      />
    </div>
  );
}

function Retire({ entry }: { entry: SiteFormat }) {
  const [setRetired, { error, isLoading }] = useSetRetiredMutation();
  const [open, setOpen] = useState(false);
  const { id: site } = useSite();
  const [reason = '', setReason] = useDraft<string>('reasons to retire', `${site} ${entry.format.id}`);
  const retired = entry.retiredAt !== null;
  if (!open)
    return (
      <button type="button" className="btn btn-line btn-small self-start" onClick={() => setOpen(true)}>
        {retired ? 'Take it back into the library …' : 'Retire this format …'}
      </button>
    );
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void setRetired({ id: entry.format.id, retired: !retired, reason }).then(({ data }) => {
          if (!data) return;
          setReason(undefined);
          setOpen(false);
        });
      }}
    >
      <Field label={retired ? 'Why it comes back' : 'Why it is retired; sites that use it go on'} className="w-80">
        {(props) => (
          <input
            {...props}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="input w-full"
            required
          />
        )}
      </Field>
      <button type="submit" className="btn btn-line" disabled={isLoading}>
        {retired ? 'Take it back' : 'Retire it'}
      </button>
      <button type="button" className="switch-link" onClick={() => setOpen(false)}>
        not now
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
