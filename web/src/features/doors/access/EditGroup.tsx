/** One access group: its name, and its doors by schedules; every change is shown before it is saved. */
import type { Access, AccessChange } from '@rawbits/api';
import { scheduleInWords, WAYS, type Way } from '@rawbits/core/access/rights';
import { ALWAYS } from '@rawbits/core/access/schedule';
import { useCallback } from 'react';
import { type UseFormReturn, useFieldArray, useWatch } from 'react-hook-form';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useUndoes } from '../../../platform/drafts/useUndoes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';

type Group = Access['groups'][number];

interface Typed {
  name: string;
  /** Doors as `in ID` and `out ID`. */
  rights: { schedule: string; passes: string[] }[];
}

const passOf = (way: Way, door: string): string => `${way} ${door}`;

const typedOf = (group: Group | undefined): Typed => ({
  name: group?.name ?? '',
  rights: group
    ? group.rights.map(({ schedule, doors }) => ({
        schedule,
        passes: doors.flatMap(({ door, ways }) => ways.map((way) => passOf(way, door))).sort(),
      }))
    : [{ schedule: ALWAYS.id, passes: [] }],
});

const rightsFrom = ({ rights }: Typed): Group['rights'] =>
  rights.flatMap(({ schedule, passes }) => {
    const doors = new Map<string, Way[]>();
    for (const pass of passes) {
      const [way, door] = pass.split(' ') as [Way, string];
      doors.set(door, [...(doors.get(door) ?? []), way]);
    }
    return doors.size === 0 ? [] : [{ schedule, doors: [...doors].map(([door, ways]) => ({ door, ways })) }];
  });

const rightsInWords = (rights: Typed['rights'], { doors, schedules }: Access): string =>
  rights
    .map(({ schedule, passes }) => {
      const by = [ALWAYS, ...schedules].find(({ id }) => id === schedule)?.name ?? schedule;
      const named = passes.map((pass) => {
        const [way, door] = pass.split(' ');
        return `${doors.find(({ id }) => id === door)?.name ?? door}, ${way}`;
      });
      return `by ${by}: ${named.join('; ') || 'no door'}`;
    })
    .join('. ');

export function EditGroup({ group, access }: { group: Group | undefined; access: Access }) {
  const { id, may } = useSite();
  const navigate = useNavigateFromHere();
  const [form, draft] = useKeptForm<Typed>('access groups', `${id} ${group?.id ?? 'new'}`, {
    defaultValues: typedOf(group),
  });
  const { forget } = draft;
  const saved = useCallback(
    (made: string | null) => {
      forget();
      if (made) navigate(`/${id}/doors/groups/${made}`);
    },
    [forget, navigate, id],
  );
  const changing = useAccessChange(saved, draft.undoes.length > 0);
  const subject = group && `access group ${group.name}`;
  const words = (field: keyof Typed, value: unknown): [string, string] =>
    field === 'name' ? ['Name', String(value)] : ['Doors', rightsInWords(value as Typed['rights'], access)];
  const undoes = useUndoes(draft, words, subject);
  const removed = useAccessChange(() => {
    forget();
    navigate(`/${id}/doors/groups`);
  });
  const { fields, append, remove } = useFieldArray({ control: form.control, name: 'rights' });
  const mayChange = may('set up doors');
  const submit = form.handleSubmit((typed) => {
    const change: AccessChange = {
      kind: 'group',
      id: group?.id ?? null,
      ...(group && { revision: group.revision }),
      name: typed.name,
      rights: rightsFrom(typed),
    };
    return changing.propose(change);
  });
  const missing = form.formState.errors.name?.message;
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="One access group">
      <form onSubmit={submit} className="flex flex-col gap-3" noValidate>
        <DraftNote draft={draft} />
        <Theirs draft={draft} words={words} {...(subject && { subject })} />
        <fieldset disabled={!mayChange} className="flex flex-col gap-3">
          <Field label="Name of the group" error={missing}>
            {(props) => (
              <input
                {...props}
                {...form.register('name', { required: 'Give it a name.' })}
                className="input w-80"
                maxLength={120}
              />
            )}
          </Field>
          {access.doors.length === 0 && <p>This site has no doors yet: add a reader at a controller first.</p>}
          {fields.map((field, i) => (
            <Right key={field.id} form={form} index={i} access={access} onRemove={() => remove(i)} />
          ))}
        </fieldset>
        <FailureNote failure={changing.proposed ? undefined : changing.error} />
        <FailureNote failure={removed.proposed ? undefined : removed.error} />
        {mayChange && (
          <div className="flex flex-wrap gap-2">
            <button type="submit" className="btn btn-primary" disabled={changing.busy}>
              {group ? 'Save' : 'Add the group'}
            </button>
            <button
              type="button"
              className="btn btn-line"
              onClick={() => append({ schedule: ALWAYS.id, passes: [] })}
              disabled={access.doors.length === 0}
            >
              Doors by another schedule
            </button>
            {group && (
              <button
                type="button"
                className="btn btn-line ml-auto"
                disabled={removed.busy || group.members > 0}
                title={group.members > 0 ? 'Take its people out first' : undefined}
                onClick={() => void removed.propose({ kind: 'remove group', id: group.id })}
              >
                Remove the group
              </button>
            )}
          </div>
        )}
      </form>
      <ChangeReview changing={changing} undoes={undoes} />
      <ChangeReview changing={removed} />
    </section>
  );
}

interface RightProps {
  form: UseFormReturn<Typed>;
  index: number;
  access: Access;
  onRemove: () => void;
}

/** Some doors by one schedule. */
function Right({ form, index, access, onRemove }: RightProps) {
  const { register, control, setValue } = form;
  const right = useWatch({ control, name: `rights.${index}` });
  const schedule = [ALWAYS, ...access.schedules].find(({ id }) => id === right?.schedule);
  const toggle = (pass: string, isIn: boolean) => {
    const others = (right?.passes ?? []).filter((other) => other !== pass);
    setValue(`rights.${index}.passes`, isIn ? [...others, pass].sort() : others, { shouldDirty: true });
  };
  return (
    <div className="border-t border-faint pt-2">
      <div className="flex flex-wrap items-end gap-3">
        <Field label="May pass by the schedule" hint={schedule && scheduleInWords(schedule)}>
          {(props) => (
            <select {...props} {...register(`rights.${index}.schedule`)} className="select w-72">
              {[ALWAYS, ...access.schedules].map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <button type="button" className="switch-link mb-6 underline" onClick={onRemove}>
          take this part out
        </button>
      </div>
      <table className="grid-table max-w-2xl" aria-label={`Doors by ${schedule?.name ?? 'this schedule'}`}>
        <thead>
          <tr>
            <th>Door</th>
            <th className="w-16 text-center">In</th>
            <th className="w-16 text-center">Out</th>
          </tr>
        </thead>
        <tbody>
          {access.doors.map((door) => (
            <tr key={door.id}>
              <td>
                {door.name}
                {!door.byGroups && <span className="text-ink-2"> asks for no groups: any active card passes</span>}
              </td>
              {WAYS.map((way) => (
                <td key={way} className="text-center">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    aria-label={`${door.name}, ${way}`}
                    disabled={!door.readers.some((reader) => reader.way === way)}
                    title={
                      door.readers.some((reader) => reader.way === way) ? undefined : `No reader for the way ${way}`
                    }
                    checked={right?.passes.includes(passOf(way, door.id)) ?? false}
                    onChange={(event) => toggle(passOf(way, door.id), event.target.checked)}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
