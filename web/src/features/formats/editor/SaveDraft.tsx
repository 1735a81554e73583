/** Names a draft and saves it: as a new format, or as a new version by way of a dry run where the site uses it. */
import type { SiteChange, SiteFormat } from '@rawbits/api';
import { structuralId } from '@rawbits/core/format';
import { useAddFormatMutation, useAddVersionMutation } from '../../../platform/endpoints/formats.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../../platform/state/hooks.ts';
import type { Checked } from './checked.ts';
import { type DraftText, draftDescribed, draftDiscarded } from './drafts.ts';

export function SaveDraft({
  draftKey,
  checked,
  entry,
  onDryRun,
  onDone,
}: {
  draftKey: string;
  checked: Checked;
  entry: SiteFormat | undefined;
  onDryRun: (change: SiteChange) => void;
  onDone: (id?: string) => void;
}) {
  const draft = useAppSelector((state) => state.drafts[draftKey]!);
  const { may } = useSite();
  const dispatch = useAppDispatch();
  const [addFormat, adding] = useAddFormatMutation();
  const [addVersion, versioning] = useAddVersionMutation();
  const { line: layout, name, notes, source, reason, basedOn } = draft;
  const id = draft.id || (checked.layout ? structuralId(checked.layout) : '');
  const done = (what: string) => {
    onDone(entry?.format.id ?? id);
    dispatch(draftDiscarded(draftKey));
    dispatch(said(what));
  };
  const body = { name, layout, ...(notes && { notes }), ...(source && { source }) };
  const save = async () => {
    if (!entry) {
      const added = await addFormat({ id, ...body });
      if (added.data) done(`${name} is in the library`);
    } else if (entry.adopted) onDryRun({ kind: 'new version', format: entry.format.id, basedOn, reason, ...body });
    else {
      const added = await addVersion({ id: entry.format.id, basedOn, reason, ...body });
      if (added.data) done(`Version ${added.data.version} of ${entry.format.id} is saved`);
    }
  };
  if (!may('define formats')) return <p className="text-ink-2">Your role here can try a draft, not save it.</p>;
  const ready = checked.sound && name.trim() !== '' && id !== '' && (!entry || reason.trim() !== '');
  const text = (field: keyof DraftText, value: string, max: number, placeholder?: string) => (props: object) => (
    <input
      {...props}
      name={field}
      value={value}
      maxLength={max}
      placeholder={placeholder}
      onChange={(event) => dispatch(draftDescribed({ key: draftKey, text: { [field]: event.target.value } }))}
      className={`input w-full ${field === 'id' ? 'font-mono' : ''}`}
    />
  );
  return (
    <form
      className="flex flex-col gap-3 border-t border-base-300 pt-3"
      aria-label="Save"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <div className="grid grid-cols-[2fr_1fr_2fr_2fr] gap-3 max-lg:grid-cols-2">
        <Field label="Name">{text('name', name, 120)}</Field>
        {entry ? (
          <Field label="Why it changes">{text('reason', reason, 400, 'data sheet, finding …')}</Field>
        ) : (
          <Field label="Id">{text('id', draft.id, 40, id)}</Field>
        )}
        <Field label="Source">{text('source', source, 400, 'data sheet, box label …')}</Field>
        <Field label="Notes">{text('notes', notes, 2000)}</Field>
      </div>
      <FailureNote failure={adding.error ?? versioning.error} />
      <div className="flex flex-wrap items-center gap-2">
        <button type="submit" className="btn btn-primary" disabled={!ready || adding.isLoading || versioning.isLoading}>
          {!entry ? 'Save to the library' : entry.adopted ? 'Show what it would do …' : 'Save the new version'}
        </button>
        <button
          type="button"
          className="btn btn-line"
          onClick={() => {
            onDone(entry?.format.id);
            dispatch(draftDiscarded(draftKey));
          }}
        >
          Discard the draft
        </button>
        {!ready && (
          <span className="text-ink-2">
            {!checked.sound
              ? 'What is marked above has to be put right first.'
              : entry
                ? 'It needs a name and a reason.'
                : 'It needs a name.'}
          </span>
        )}
      </div>
    </form>
  );
}
