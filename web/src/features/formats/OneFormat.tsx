/** One format: on the tape, its editor, its settings sheet, its capacity, its versions. */
import type { SiteChange, SiteFormat } from '@rawbits/api';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { DryRunPanel } from '../../parts/dryRun/DryRunPanel.tsx';
import { boxInWords } from '../../parts/strip/boxInWords.ts';
import { useCasesQuery } from '../../platform/endpoints/cases.ts';
import { said } from '../../platform/frame/slice.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { draftOpened, emptyDraft } from './editor/drafts.ts';
import { FormatEditor } from './editor/FormatEditor.tsx';
import { useFormatDraftKey } from './editor/useFormatDraftKey.ts';
import { Overview } from './Overview.tsx';
import { SettingsSheet } from './SettingsSheet.tsx';
import { Versions } from './Versions.tsx';
import { WholeCards } from './WholeCards.tsx';

const Capacity = lazy(async () => ({ default: (await import('./Capacity.tsx')).Capacity }));

const VIEWS = [
  ['bits', 'Bits'],
  ['edit', 'Change'],
  ['sheet', 'Settings sheet'],
  ['capacity', 'Capacity'],
  ['versions', 'Versions'],
] as const;

export function OneFormat({ entry }: { entry: SiteFormat }) {
  const [params, setParams] = useSearchParams();
  const view = VIEWS.find(([id]) => id === params.get('view'))?.[0] ?? 'bits';
  const show = (id: string) => setParams(id === 'bits' ? {} : { view: id });
  const [change, setChange] = useState<SiteChange>();
  const draftKey = useFormatDraftKey(entry.format.id);
  const hasDraft = useAppSelector((state) => (state.drafts[draftKey]?.past.length ?? 0) > 0);
  const dispatch = useAppDispatch();
  if (change)
    return (
      <DryRunPanel
        change={change}
        title={`${change.kind === 'adopt' ? 'use' : 'stop using'} ${entry.format.name} at this site`}
        onSaved={() => {
          setChange(undefined);
          dispatch(said(`${entry.format.name} is ${change.kind === 'adopt' ? 'in use' : 'no longer in use'} here`));
        }}
        onClose={() => setChange(undefined)}
      />
    );
  return (
    <div className="flex min-h-0 min-w-0 flex-col gap-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 print:hidden">
        <h2 className="text-[1.15rem]">{entry.format.name}</h2>
        <Provenance entry={entry} />
        <Adoption entry={entry} onChange={setChange} />
      </div>
      <nav className="flex flex-wrap gap-x-2 print:hidden" aria-label="Views of the format">
        {VIEWS.map(([id, words]) => (
          <button key={id} type="button" aria-pressed={view === id} className="switch-link" onClick={() => show(id)}>
            {words}
            {id === 'edit' && hasDraft && <span className="text-signal"> · draft</span>}
          </button>
        ))}
      </nav>
      {view === 'edit' ? (
        <EditView entry={entry} onDone={() => show('bits')} />
      ) : (
        <section className="panel flex min-h-0 min-w-0 flex-col gap-3 overflow-auto p-4" aria-label={entry.format.name}>
          {view === 'bits' && <WholeCards entry={entry} />}
          {view === 'bits' && <Overview entry={entry} />}
          {view === 'sheet' && <SettingsSheet format={entry.format} layout={entry.layout} />}
          {view === 'capacity' && (
            <Suspense fallback={<p>Loading …</p>}>
              <Capacity entry={entry} />
            </Suspense>
          )}
          {view === 'versions' && <Versions entry={entry} />}
        </section>
      )}
    </div>
  );
}

function Provenance({ entry }: { entry: SiteFormat }) {
  const clock = useClock();
  const proven =
    entry.provenOn === 0
      ? 'not proven on any card yet'
      : `proven on ${entry.provenOn} ${entry.provenOn === 1 ? 'card' : 'cards'}`;
  const { id: site } = useSite();
  const { data: cases = [] } = useCasesQuery(site);
  const [settled] = cases.flatMap((one) => (one.formatId === entry.format.id && one.settledFor ? [one] : []));
  return (
    <span className="text-ink-2">
      <span className="font-mono">{entry.format.id}</span> · version {entry.version}
      {entry.newest > entry.version && (
        <strong className="text-signal"> (version {entry.newest} is in the library)</strong>
      )}{' '}
      · {entry.reason}
      {entry.createdBy !== 'Raw Bits' && `, ${entry.createdBy}, ${clock(entry.createdAt)}`} · {proven}
      {settled?.settledFor && (
        <span data-testid="settled-for">
          {' '}
          · {boxInWords(settled.settledFor)} By {settled.settledFor.specimens} cards of the case{' '}
          <Link to={`/${site}/identify/${settled.id}`} className="underline underline-offset-4">
            {settled.name}
          </Link>
          .
        </span>
      )}
      {entry.retiredAt && <strong className="text-signal"> · retired</strong>}
    </span>
  );
}

function EditView({ entry, onDone }: { entry: SiteFormat; onDone: () => void }) {
  const { format, layout, newest } = entry;
  const key = useFormatDraftKey(format.id);
  const draft = useAppSelector((state) => state.drafts[key]);
  const dispatch = useAppDispatch();
  useEffect(() => {
    const { id, name, notes = '', source = '' } = format;
    dispatch(draftOpened({ key, draft: emptyDraft(layout, { id, name, notes, source, basedOn: newest }) }));
  }, [dispatch, key, format, layout, newest]);
  return draft ? <FormatEditor draftKey={key} entry={entry} onDone={onDone} /> : null;
}

function Adoption({ entry, onChange }: { entry: SiteFormat; onChange: (change: SiteChange) => void }) {
  const { may } = useSite();
  if (!may('use formats')) return entry.adopted ? <span className="tag text-primary">in use here</span> : null;
  const format = entry.format.id;
  return (
    <span className="ml-auto flex flex-wrap items-center gap-2">
      {entry.adopted ? (
        <button type="button" className="btn btn-line btn-small" onClick={() => onChange({ kind: 'drop', format })}>
          Stop using it here …
        </button>
      ) : (
        <button type="button" className="btn btn-primary btn-small" onClick={() => onChange({ kind: 'adopt', format })}>
          Use it at this site …
        </button>
      )}
    </span>
  );
}
