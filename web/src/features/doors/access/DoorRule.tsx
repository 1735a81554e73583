/** How a door decides, and which readers are on its two sides. */
import type { Access, Door } from '@rawbits/api';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useUndoes } from '../../../platform/drafts/useUndoes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

interface Typed {
  name: string;
  rule: 'groups' | 'any';
  in: string;
  out: string;
}

const typedOf = ({ name, byGroups, readers }: Door): Typed => ({
  name,
  rule: byGroups ? 'groups' : 'any',
  in: readers.find(({ way }) => way === 'in')?.id ?? '',
  out: readers.find(({ way }) => way === 'out')?.id ?? '',
});

const NAMES: Record<keyof Typed, string> = { name: 'Name', rule: 'How it decides', in: 'In', out: 'Out' };

export function DoorRule({ door, access }: { door: Door; access: Access }) {
  const { id, may } = useSite();
  const [form, draft] = useKeptForm<Typed>('doors', `${id} ${door.id}`, { defaultValues: typedOf(door) });
  const changing = useAccessChange(draft.forget, draft.undoes.length > 0);
  const near = access.doors.filter(({ controllerId }) => controllerId === door.controllerId).flatMap((d) => d.readers);
  const words = (field: keyof Typed, value: unknown): [string, string] => {
    if (field === 'rule') return [NAMES.rule, value === 'groups' ? 'by access groups' : 'any active card'];
    return [NAMES[field], near.find(({ id: reader }) => reader === value)?.name ?? String(value)];
  };
  const undoes = useUndoes(draft, words, `door ${door.name}`);
  const { errors } = form.formState;
  const submit = form.handleSubmit((typed) => {
    const readers = (['in', 'out'] as const).flatMap((way) => (typed[way] ? [{ id: typed[way], way }] : []));
    if (readers.length === 0) return form.setError('in', { message: 'A door has at least one reader.' });
    return changing.propose({
      kind: 'door',
      id: door.id,
      revision: door.revision,
      name: typed.name,
      byGroups: typed.rule === 'groups',
      readers,
    });
  });
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="How the door decides">
      <h2>How it decides</h2>
      <form onSubmit={submit} className="flex flex-col gap-3" noValidate>
        <DraftNote draft={draft} />
        <Theirs draft={draft} words={words} subject={`door ${door.name}`} />
        <fieldset disabled={!may('set up doors')} className="flex flex-col gap-3">
          <div className="flex flex-wrap gap-x-6 gap-y-1">
            <label className="flex items-center gap-2">
              <input type="radio" value="groups" className="radio radio-sm" {...form.register('rule')} />
              only whom an access group lets through
            </label>
            <label className="flex items-center gap-2">
              <input type="radio" value="any" className="radio radio-sm" {...form.register('rule')} />
              any active card, at any time
            </label>
          </div>
          <div className="flex flex-wrap gap-3">
            <Field label="Name of the door" error={errors.name?.message}>
              {(props) => (
                <input
                  {...props}
                  {...form.register('name', { required: 'Give it a name.' })}
                  className="input w-64"
                  maxLength={120}
                />
              )}
            </Field>
            {(['in', 'out'] as const).map((way) => (
              <Field key={way} label={`Reader for the way ${way}`} error={errors[way]?.message}>
                {(props) => (
                  <select {...props} {...form.register(way)} className="select w-56">
                    <option value="">none</option>
                    {near.map((reader) => (
                      <option key={reader.id} value={reader.id}>
                        {reader.name}
                      </option>
                    ))}
                  </select>
                )}
              </Field>
            ))}
          </div>
        </fieldset>
        <FailureNote failure={changing.proposed ? undefined : changing.error} />
        {may('set up doors') && (
          <div>
            <button type="submit" className="btn btn-primary" disabled={changing.busy || !form.formState.isDirty}>
              Save
            </button>
          </div>
        )}
      </form>
      <ChangeReview changing={changing} undoes={undoes} />
    </section>
  );
}
