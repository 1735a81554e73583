/** Assertions: what is to stay true of who may pass; held to at every change, and shown with what breaks them. */
import { type Access, savedAssertionSchema } from '@rawbits/api';
import { scheduleInWords } from '@rawbits/core/access/rights';
import { useState } from 'react';
import { BrokenBy } from '../../../parts/access/BrokenBy.tsx';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useSaveAssertionMutation, useWithdrawAssertionMutation } from '../../../platform/endpoints/access.ts';
import { ticked } from '../../../platform/forms/boxes.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

type Assertion = Access['assertions'][number];

export function Assertions({ access }: { access: Access }) {
  const { may } = useSite();
  const [editing, setEditing] = useState<string>();
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="Assertions">
      <h2 className="text-[1.15rem]">Assertions</h2>
      <p className="text-ink-2">
        Checked exactly, minute by minute and on every holiday, whenever a group, a schedule, a door or somebody’s
        groups are changed: a change that breaks one is not saved unless you say so.
      </p>
      {access.assertions.map((assertion) =>
        editing === assertion.id ? (
          <EditAssertion
            key={assertion.id}
            assertion={assertion}
            access={access}
            onDone={() => setEditing(undefined)}
          />
        ) : (
          <OneAssertion
            key={assertion.id}
            assertion={assertion}
            access={access}
            onEdit={() => setEditing(assertion.id)}
          />
        ),
      )}
      {editing === 'new' ? (
        <EditAssertion assertion={undefined} access={access} onDone={() => setEditing(undefined)} />
      ) : (
        may('set up doors') && (
          <button
            type="button"
            className="btn btn-primary self-start"
            disabled={access.doors.length === 0}
            onClick={() => setEditing('new')}
          >
            Assert something
          </button>
        )
      )}
    </section>
  );
}

const named = (ids: readonly string[], some: readonly { id: string; name: string }[]): string =>
  ids.map((id) => some.find((one) => one.id === id)?.name ?? 'what is gone').join(', ');

interface OneProps {
  assertion: Assertion;
  access: Access;
  onEdit: () => void;
}

function OneAssertion({ assertion, access, onEdit }: OneProps) {
  const { id: site, may } = useSite();
  const [withdraw, { error, isLoading }] = useWithdrawAssertionMutation();
  const { name, but, doors, way, during, broken } = assertion;
  return (
    <article className="border-t border-faint pt-2" aria-label={name}>
      <p className="flex flex-wrap items-baseline gap-x-3">
        <strong>{name}</strong>
        <span className={`tag ${broken.length > 0 ? 'text-signal' : 'text-primary'}`}>
          {broken.length > 0 ? 'does not hold' : 'holds'}
        </span>
        {may('set up doors') && (
          <span className="ml-auto flex flex-wrap gap-2">
            <button
              type="button"
              className="switch-link underline"
              disabled={!isSimple(assertion)}
              title={isSimple(assertion) ? undefined : 'Its hours are of a kind that only the API can change'}
              onClick={onEdit}
            >
              change<span className="sr-only"> {name}</span>
            </button>
            <button
              type="button"
              className="switch-link underline"
              disabled={isLoading}
              onClick={() => void withdraw({ site, id: assertion.id })}
            >
              remove<span className="sr-only"> {name}</span>
            </button>
          </span>
        )}
      </p>
      <p>
        Nobody {but.length > 0 && `but ${named(but, access.groups)} `}may pass {named(doors, access.doors)}, {way}:{' '}
        {scheduleInWords(during)}.
      </p>
      {broken.length > 0 && (
        <div className="text-signal">
          <BrokenBy broken={broken} />
        </div>
      )}
      <FailureNote failure={error} />
    </article>
  );
}

interface Typed {
  name: string;
  but: string[];
  doors: string[];
  way: 'in' | 'out';
  days: string[];
  from: string;
  to: string;
  onHolidays: boolean;
}

/** Whether the form can say its hours: one period, and holidays as other days or not at all. */
const isSimple = ({ during: { periods, onHolidays } }: Assertion): boolean =>
  periods.length === 1 && (onHolidays === 'as other days' || onHolidays.length === 0);

const EVERY_DAY = ['1', '2', '3', '4', '5', '6', '7'];
const DAY_NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

function typedOf(assertion: Assertion | undefined): Typed {
  const period = assertion?.during.periods[0];
  return {
    name: assertion?.name ?? '',
    but: assertion?.but ?? [],
    doors: assertion?.doors ?? [],
    way: assertion?.way ?? 'in',
    days: period?.days.map(String) ?? EVERY_DAY,
    from: period?.from ?? '22:00',
    to: period?.to ?? '06:00',
    onHolidays: assertion ? assertion.during.onHolidays === 'as other days' : true,
  };
}

interface EditProps {
  assertion: Assertion | undefined;
  access: Access;
  onDone: () => void;
}

function EditAssertion({ assertion, access, onDone }: EditProps) {
  const { id: site } = useSite();
  const [save, { error, isLoading }] = useSaveAssertionMutation();
  const [form, draft] = useKeptForm('assertions', `${site} ${assertion?.id ?? 'new'}`, {
    resolver: checkedAs(savedAssertionSchema, (typed: Typed) => ({
      id: assertion?.id ?? null,
      ...(assertion && { revision: assertion.revision }),
      name: typed.name,
      but: ticked(typed.but),
      doors: ticked(typed.doors),
      way: typed.way,
      during: {
        periods: [{ days: ticked(typed.days).map(Number), from: typed.from, to: typed.to }],
        onHolidays: typed.onHolidays ? ('as other days' as const) : [],
      },
    })),
    defaultValues: typedOf(assertion),
  });
  const { register } = form;
  const wrong = form.formState.errors;
  const submit = form.handleSubmit(async (body) => {
    if (!(await save({ site, assertion: body })).data) return;
    draft.forget();
    onDone();
  });
  const boxes = (name: 'but' | 'doors' | 'days', some: readonly { id: string; name: string }[]) => (
    <span className="flex flex-wrap gap-x-4 gap-y-1">
      {some.map((one) => (
        <label key={one.id} className="flex items-center gap-1">
          <input type="checkbox" value={one.id} className="checkbox checkbox-xs" {...register(name)} />
          {one.name}
        </label>
      ))}
    </span>
  );
  const told = wrong.doors
    ? 'Choose at least one door.'
    : ((wrong as { during?: { message?: string } }).during?.message ?? undefined);
  return (
    <form
      onSubmit={submit}
      className="flex flex-col gap-3 border-t border-faint pt-3"
      aria-label="An assertion"
      noValidate
    >
      <DraftNote draft={draft} />
      {assertion && (
        <Theirs
          draft={draft}
          words={(field, value) => [field, String(value)]}
          subject={`assertion ${assertion.name}`}
        />
      )}
      <Field label="What is to stay true" error={wrong.name?.message}>
        {(props) => (
          <input
            {...props}
            {...register('name')}
            placeholder="The gear store at night is the divers’"
            className="input w-96"
            maxLength={120}
          />
        )}
      </Field>
      <fieldset>
        <legend className="field-label">Nobody but</legend>
        {access.groups.length === 0 ? <p className="text-ink-2">no group at all</p> : boxes('but', access.groups)}
      </fieldset>
      <fieldset>
        <legend className="field-label">may pass</legend>
        {boxes('doors', access.doors)}
        <span className="mt-1 flex gap-4">
          {(['in', 'out'] as const).map((way) => (
            <label key={way} className="flex items-center gap-1">
              <input type="radio" value={way} className="radio radio-xs" {...register('way')} />
              {way}
            </label>
          ))}
        </span>
      </fieldset>
      <fieldset className="flex flex-wrap items-center gap-3">
        <legend className="field-label">between</legend>
        <input {...register('from')} aria-label="From" className="input w-20 font-mono" maxLength={5} />
        and
        <input {...register('to')} aria-label="To" className="input w-20 font-mono" maxLength={5} />
        {boxes(
          'days',
          DAY_NAMES.map((name, i) => ({ id: String(i + 1), name })),
        )}
        <label className="flex items-center gap-1">
          <input type="checkbox" className="checkbox checkbox-xs" {...register('onHolidays')} />
          on holidays, too
        </label>
      </fieldset>
      {told && (
        <p role="alert" className="font-bold text-signal">
          {told}
        </p>
      )}
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
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
