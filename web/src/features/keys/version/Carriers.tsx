/** Cards that came keyed: those of a range carry a version. */

import { type Key, keyApi } from '@rawbits/api';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { useNoteCarriersMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';

export function Carriers({ of, version, onDone }: { of: Key; version: number; onDone: () => void }) {
  const { id: site } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const inUse = formats.filter(({ adopted }) => adopted);
  const [note, { data, error, isLoading }] = useNoteCarriersMutation();
  const [form, draft] = useKeptForm('cards that carry keys', `${site} ${of.id} ${version}`, {
    resolver: checkedAs(
      keyApi.carriers.body!,
      (typed: { formatId: string; facility: string; from: string; to: string }) => ({
        ...typed,
        facility: typed.facility === '' ? null : typed.facility,
      }),
    ),
    defaultValues: { formatId: '', facility: '', from: '', to: '' },
  });
  const { register, handleSubmit, formState } = form;
  const { errors } = formState;
  const submit = handleSubmit(async (body) => {
    const noted = await note({ params: { site, id: of.id, version: String(version) }, body });
    if (noted.data) draft.forget();
  });
  return (
    <form
      onSubmit={submit}
      className="grid gap-2 border-t border-faint pt-3"
      aria-label="Cards that carry it"
      noValidate
    >
      <h2>
        Cards that carry {of.name}, version {version}
      </h2>
      <p className="text-ink-2">
        Cards on file of one box, as its label has them. They are then counted under this version.
      </p>
      <DraftNote draft={draft} />
      <div className="flex flex-wrap gap-3">
        <Field label="Format" error={errors.formatId?.message}>
          {(props) => (
            <select {...props} {...register('formatId')} className="select w-64">
              <option value="">choose …</option>
              {inUse.map(({ format }) => (
                <option key={format.id} value={format.id}>
                  {format.name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Facility code" error={errors.facility?.message}>
          {(props) => (
            <input {...props} {...register('facility')} className="input w-24 font-mono" placeholder="none" />
          )}
        </Field>
        <Field label="First number" error={errors.from?.message}>
          {(props) => <input {...props} {...register('from')} className="input w-32 font-mono" />}
        </Field>
        <Field label="Last number" error={errors.to?.message}>
          {(props) => <input {...props} {...register('to')} className="input w-32 font-mono" />}
        </Field>
      </div>
      <FailureNote failure={error} />
      {data && !error && <p role="status">{counted(data.cards, 'card')} noted.</p>}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Note them
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Close
        </button>
      </div>
    </form>
  );
}
