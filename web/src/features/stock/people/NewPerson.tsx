/** Putting a cardholder on file: what their kind or organisation brings comes with it. */
import { newCardholderSchema } from '@rawbits/api';
import { Link } from 'react-router';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAddCardholderMutation } from '../../../platform/endpoints/cards.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { NOBODY, PersonFields, type PersonTyped } from './PersonFields.tsx';

export function NewPerson() {
  const { id: site } = useSite();
  const navigate = useNavigateFromHere();
  const [add, { error, isLoading }] = useAddCardholderMutation();
  const [form, draft] = useKeptForm('cardholders', `${site} new`, {
    resolver: checkedAs(newCardholderSchema, (typed: PersonTyped) => typed),
    defaultValues: NOBODY,
  });
  const submit = form.handleSubmit(async (body) => {
    const { data } = await add({ site, ...body });
    if (!data) return;
    draft.forget();
    navigate(`/${site}/stock/people/${data.id}`);
  });
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="A new cardholder">
      <h2 className="text-[1.15rem]">A new cardholder</h2>
      <form onSubmit={submit} className="flex flex-col gap-3" noValidate>
        <DraftNote draft={draft} />
        <PersonFields register={form.register} errors={form.formState.errors} />
        <FailureNote failure={error} />
        <div className="flex gap-2">
          <button type="submit" className="btn btn-primary" disabled={isLoading}>
            Add
          </button>
          <Link to={`/${site}/stock/people`} className="btn btn-line" onClick={draft.forget}>
            Cancel
          </Link>
        </div>
      </form>
    </section>
  );
}
