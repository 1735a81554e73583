/** One key: its versions by their check values, and what can be done with each. */
import type { ComponentSheet, Key } from '@rawbits/api';
import { useState } from 'react';
import { useRetireKeyMutation } from '../../../platform/endpoints/keys.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { Ceremony } from '../component/Ceremony.tsx';
import { Sheet } from '../component/Sheet.tsx';
import { KeyUses } from '../use/KeyUses.tsx';
import { KIND_WORDS } from '../words/words.ts';
import { AskFor } from './AskFor.tsx';
import { Carriers } from './Carriers.tsx';
import type { Doing } from './doing.ts';
import { NewVersion } from './NewVersion.tsx';
import { RollOver } from './RollOver.tsx';
import { VersionRow } from './VersionRow.tsx';

interface Props {
  of: Key;
  set: string;
  open: boolean;
}

export function OneKey({ of, set, open }: Props) {
  const { id: site, may } = useSite();
  const [doing, setDoing] = useState<Doing>();
  const [sheet, setSheet] = useState<ComponentSheet>();
  const [retire, { error, isLoading }] = useRetireKeyMutation();
  const done = () => setDoing(undefined);
  const waiting = of.versions.filter(({ state }) => state === 'waiting');
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label={`Key ${of.name}`}>
      <div className="flex flex-wrap items-baseline gap-x-4 print:hidden">
        <h2 className="text-[1.15rem]">
          <span className="text-ink-2">{set} /</span> {of.name}
        </h2>
        <span>{KIND_WORDS[of.kind]}</span>
        <span className="text-ink-2">for: {of.purpose}</span>
        {of.retiredAt && <span className="tag text-ink-2">retired</span>}
      </div>
      {of.notes && <p className="text-ink-2 print:hidden">{of.notes}</p>}
      <table className="grid-table print:hidden">
        <thead>
          <tr>
            <th>version</th>
            <th>check value</th>
            <th>standing</th>
            <th>came</th>
            <th>good</th>
            <th>on cards</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {of.versions.map((version) => (
            <VersionRow key={version.version} of={of} version={version} open={open} onDo={setDoing} />
          ))}
        </tbody>
      </table>
      {waiting.map((version) => (
        <Ceremony
          key={version.version}
          of={of}
          version={version}
          open={open}
          showing={sheet !== undefined}
          onSheet={setSheet}
        />
      ))}
      {sheet && <Sheet sheet={sheet} onDone={() => setSheet(undefined)} />}
      <div className="contents print:hidden">
        <RollOver of={of} set={set} />
        <KeyUses of={of} open={open} />
        {doing?.what === 'new' && <NewVersion of={of} onDone={done} />}
        {doing?.what === 'cards' && <Carriers of={of} version={doing.version} onDone={done} />}
        {(doing?.what === 'uncover' || doing?.what === 'destroy') && (
          <AskFor
            key={`${doing.what} ${doing.version}`}
            of={of}
            kind={doing.what}
            version={doing.version}
            onDone={done}
          />
        )}
        {may('hold keys') && !doing && !of.retiredAt && (
          <div className="flex flex-wrap gap-2">
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={!open}
              title={open ? undefined : 'Unlock the key store first'}
              onClick={() => setDoing({ what: 'new' })}
            >
              New version …
            </button>
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={isLoading}
              onClick={() => void retire({ site, id: of.id })}
            >
              Retire the key
            </button>
          </div>
        )}
        <FailureNote failure={error} />
      </div>
    </section>
  );
}
