/** Names a facility code, or changes what is said about one. */
import { type FacilityCode, newFacilityCodeSchema } from '@rawbits/api';
import { greatestOf } from '@rawbits/core/codec';
import { useWatch } from 'react-hook-form';
import { DraftNote, Theirs } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useAddFacilityCodeMutation, useDescribeFacilityCodeMutation } from '../../platform/endpoints/facilityCodes.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { beginningOf, dayOf } from '../../platform/words/siteDays.ts';

const EMPTY = { formatId: '', code: '', name: '', notes: '', orderedBy: '', orderedFrom: '', reserved: '' };

const NAMES: Record<keyof typeof EMPTY, string> = {
  formatId: 'Format',
  code: 'Code',
  name: 'Name',
  notes: 'Notes',
  orderedBy: 'Ordered by',
  orderedFrom: 'From',
  reserved: 'Reserved numbers',
};

/** Reserved ranges as text, one a line: `100-199 divers`; one that is kept for encoding: `600-699 encode: staff cards`. */
const reservedText = (code: FacilityCode): string =>
  code.reserved
    .map(({ from, to, note, forEncoding }) => `${from}-${to} ${forEncoding ? 'encode: ' : ''}${note}`.trim())
    .join('\n');

function reservedFrom(text: string) {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const match = /^(\d+)\s*(?:[-–]\s*(\d+))?\s*(?:(encode)\b\s*:?\s*)?(.*)$/i.exec(line);
      return match
        ? { from: match[1]!, to: match[2] ?? match[1]!, note: match[4]!, forEncoding: match[3] !== undefined }
        : { from: line, to: line, note: '', forEncoding: false };
    });
}

const typedOf = ({ code, name, notes, orderedBy, ...rest }: FacilityCode, zone: string): typeof EMPTY => ({
  code,
  name,
  notes,
  orderedBy,
  formatId: rest.formatId ?? '',
  orderedFrom: dayOf(rest.orderedFrom, zone),
  reserved: reservedText({ code, name, notes, orderedBy, ...rest }),
});

export function CodeForm({ code, onDone }: { code: FacilityCode | undefined; onDone: () => void }) {
  const { id: site, zone } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const [add, adding] = useAddFacilityCodeMutation();
  const [describe, describing] = useDescribeFacilityCodeMutation();
  const bodyOf = ({ formatId, code: text, orderedFrom, reserved, ...rest }: typeof EMPTY) => ({
    formatId: formatId || null,
    code: text,
    orderedFrom: beginningOf(orderedFrom, zone),
    reserved: reservedFrom(reserved),
    ...rest,
  });
  const [form, draft] = useKeptForm('facility codes', `${site} ${code?.id ?? 'new'}`, {
    resolver: checkedAs(newFacilityCodeSchema, bodyOf),
    defaultValues: code ? typedOf(code, zone) : EMPTY,
  });
  const { register, control, handleSubmit, formState } = form;
  const formatId = useWatch({ control, name: 'formatId' });
  const carrying = formats.filter((f) => f.adopted && f.format.spans.some((s) => s.role === 'facility'));
  const span = carrying.find((f) => f.format.id === formatId)?.format.spans.find((s) => s.role === 'facility');
  const error = adding.error ?? describing.error;
  const fieldError = (field: keyof typeof EMPTY) =>
    formState.errors[field]?.message ??
    (error && 'where' in error && error.where?.field?.startsWith(field) ? error.message : undefined);
  const submit = handleSubmit(async (body) => {
    const { formatId: _format, code: _code, ...about } = body;
    const saved = code
      ? await describe({ site, id: code.id, body: { ...about, revision: code.revision } })
      : await add({ site, code: body });
    if (!saved.data) return;
    draft.forget();
    onDone();
  });
  return (
    <form
      onSubmit={submit}
      className="flex flex-col gap-3 border-t border-base-300 pt-3"
      aria-label="Facility code"
      noValidate
    >
      <DraftNote draft={draft} />
      {code && (
        <Theirs
          draft={draft}
          words={(field, value) => [NAMES[field], String(value ?? '')]}
          subject={`facility code ${code.code}`}
        />
      )}
      <div className="grid grid-cols-3 gap-3 max-md:grid-cols-1">
        {!code && (
          <>
            <Field label="Format" error={fieldError('formatId')}>
              {(props) => (
                <select {...props} {...register('formatId')} className="select w-full">
                  <option value="">any that carries one</option>
                  {carrying.map(({ format }) => (
                    <option key={format.id} value={format.id}>
                      {format.name}
                    </option>
                  ))}
                </select>
              )}
            </Field>
            <Field label="Code" error={fieldError('code')} hint={span && `0 to ${greatestOf(span)}`}>
              {(props) => (
                <input {...props} {...register('code')} inputMode="numeric" className="input w-full font-mono" />
              )}
            </Field>
          </>
        )}
        <Field label="Name" error={fieldError('name')}>
          {(props) => <input {...props} {...register('name')} maxLength={120} className="input w-full" />}
        </Field>
        <Field label="Ordered by">
          {(props) => <input {...props} {...register('orderedBy')} maxLength={120} className="input w-full" />}
        </Field>
        <Field label="From">
          {(props) => <input {...props} {...register('orderedFrom')} type="date" className="input w-full" />}
        </Field>
        <Field label="Notes">
          {(props) => <input {...props} {...register('notes')} maxLength={2000} className="input w-full" />}
        </Field>
        <Field
          label="Reserved numbers"
          hint="one range a line: 100-199 divers, or 600-699 encode: staff cards for numbers that encoding runs may take"
          error={fieldError('reserved')}
          className="col-span-full"
        >
          {(props) => (
            <textarea {...props} {...register('reserved')} rows={2} className="textarea min-h-0 w-full font-mono" />
          )}
        </Field>
      </div>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={adding.isLoading || describing.isLoading}>
          Save
        </button>
        <button
          type="button"
          className="btn btn-line"
          onClick={() => {
            draft.forget();
            onDone();
          }}
        >
          Cancel
        </button>
      </div>
    </form>
  );
}
