/** Facility codes of the site by name, and the numbers that meet under several of them. */
import type { FacilityCode, SiteChange } from '@rawbits/api';
import { useState } from 'react';
import { DryRunPanel } from '../../parts/dryRun/DryRunPanel.tsx';
import {
  useAddFacilityCodeMutation,
  useFacilityCodesQuery,
  useRemoveFacilityCodeMutation,
} from '../../platform/endpoints/facilityCodes.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { UndoNote } from '../../platform/forms/UndoNote.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { CodeForm } from './CodeForm.tsx';
import { CollisionList } from './CollisionList.tsx';

export function FacilityCodes() {
  const { id: site, may } = useSite();
  const { data, error } = useFacilityCodesQuery(site);
  const codes = data ?? [];
  /** The id of the one that is edited: what it is comes from what is saved now. */
  const [editing, setEditing] = useState<string>();
  const [change, setChange] = useState<{ code: FacilityCode; change: SiteChange }>();
  const [removed, setRemoved] = useState<FacilityCode>();
  const dispatch = useAppDispatch();
  if (change)
    return (
      <DryRunPanel
        change={change.change}
        title={`${change.code.name} becomes facility code ${change.change.kind === 'facility code' ? change.change.code : ''}`}
        onSaved={() => {
          setChange(undefined);
          dispatch(said('The facility code is changed, and the cards on file under it; load the doors'));
        }}
        onClose={() => setChange(undefined)}
      />
    );
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
      <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Facility codes">
        <FailureNote failure={error} />
        {!data && !error && <p className="text-ink-2">Loading …</p>}
        {data?.length === 0 && (
          <p>No facility code has a name yet. Name those on the boxes, so that a stray card is told at a glance.</p>
        )}
        {codes.length > 0 && (
          <table className="grid-table">
            <thead>
              <tr>
                <th>code</th>
                <th>name</th>
                <th>format</th>
                <th>ordered</th>
                <th>reserved numbers</th>
                <th aria-label="change" />
              </tr>
            </thead>
            <tbody>
              {codes.map((code) => (
                <CodeRow
                  key={code.id}
                  code={code}
                  onEdit={() => setEditing(code.id)}
                  onRemoved={() => setRemoved(code)}
                  onCode={(next) => setChange({ code, change: { kind: 'facility code', id: code.id, code: next } })}
                />
              ))}
            </tbody>
          </table>
        )}
        {removed && <Removed code={removed} onDone={() => setRemoved(undefined)} />}
        {may('use formats') &&
          (editing ? (
            <CodeForm
              key={editing}
              code={codes.find(({ id }) => id === editing)}
              onDone={() => setEditing(undefined)}
            />
          ) : (
            <button type="button" className="btn btn-line self-start" onClick={() => setEditing('new')}>
              Name a facility code …
            </button>
          ))}
      </section>
      <CollisionList />
    </div>
  );
}

/** A name that was removed, and the way back. */
function Removed({ code, onDone }: { code: FacilityCode; onDone: () => void }) {
  const { id: site } = useSite();
  const [add, { error, isLoading }] = useAddFacilityCodeMutation();
  const { formatId, code: digits, name, notes, orderedBy, orderedFrom, reserved } = code;
  const undo = async () => {
    const again = await add({ site, code: { formatId, code: digits, name, notes, orderedBy, orderedFrom, reserved } });
    if (again.data) onDone();
  };
  return (
    <UndoNote
      text={`The name ${name} of code ${digits} is deleted.`}
      onUndo={() => void undo()}
      isLoading={isLoading}
      failure={error}
    />
  );
}

interface CodeRowProps {
  code: FacilityCode;
  onEdit: () => void;
  onRemoved: () => void;
  onCode: (next: string) => void;
}

function CodeRow({ code, onEdit, onRemoved, onCode }: CodeRowProps) {
  const { id: site, may } = useSite();
  const [remove, { error }] = useRemoveFacilityCodeMutation();
  const [next, setNext] = useState<string>();
  return (
    <tr>
      <td className="font-mono">{code.code}</td>
      <td>
        {code.name}
        {code.notes && <span className="block text-ink-2">{code.notes}</span>}
        <FailureNote failure={error} />
      </td>
      <td className="whitespace-nowrap">{code.formatId ?? 'any'}</td>
      <td>
        {code.orderedBy}
        {code.orderedFrom && ` from ${code.orderedFrom.slice(0, 10)}`}
      </td>
      <td>
        {code.reserved.map(({ from, to, note }) => (
          <span key={`${from} ${to}`} className="block">
            <span className="font-mono">
              {from}–{to}
            </span>{' '}
            {note}
          </span>
        ))}
      </td>
      <td className="w-44">
        {may('use formats') &&
          (next === undefined ? (
            <>
              <button type="button" className="switch-link block text-left" onClick={onEdit}>
                describe
              </button>
              <button type="button" className="switch-link block text-left" onClick={() => setNext(code.code)}>
                change the code …
              </button>
              <button
                type="button"
                className="switch-link block text-left"
                onClick={async () => {
                  if (!(await remove({ site, id: code.id })).error) onRemoved();
                }}
              >
                delete the name
              </button>
            </>
          ) : (
            <form
              className="flex flex-col items-start gap-1"
              onSubmit={(event) => {
                event.preventDefault();
                onCode(next);
              }}
            >
              <input
                value={next}
                onChange={(event) => setNext(event.target.value.trim())}
                aria-label={`New code of ${code.name}`}
                pattern="\d+"
                required
                className="input h-7! w-24 font-mono"
              />
              <button type="submit" className="btn btn-line btn-small" disabled={next === code.code}>
                Show what it would do …
              </button>
              <button type="button" className="switch-link" onClick={() => setNext(undefined)}>
                not now
              </button>
            </form>
          ))}
      </td>
    </tr>
  );
}
