/** One schedule: its periods by days of the week, what holds on holidays, and the week that they make. */
import type { Access } from '@rawbits/api';
import { dayName, scheduleInWords } from '@rawbits/core/access/rights';
import { type Period, scheduleSchema } from '@rawbits/core/access/schedule';
import { useCallback, useMemo } from 'react';
import { type UseFormReturn, useFieldArray, useWatch } from 'react-hook-form';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { Week } from '../../../parts/week/Week.tsx';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useUndoes } from '../../../platform/drafts/useUndoes.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { weekWithHoliday } from './weekWithHoliday.ts';

type Schedule = Access['schedules'][number];

interface Typed {
  name: string;
  /** Boxes give their values as texts. */
  periods: { days: string[]; from: string; to: string }[];
  holidays: 'as other days' | 'nothing' | 'other hours';
  onHolidays: Period[];
}

const WORKING = [1, 2, 3, 4, 5];
const DAYS = [1, 2, 3, 4, 5, 6, 7];

const typedOf = (schedule: Schedule | undefined): Typed => {
  const { name = '', periods = [{ days: WORKING, from: '07:00', to: '17:00' }], onHolidays = [] } = schedule ?? {};
  return {
    name,
    periods: periods.map(({ days, ...rest }) => ({ ...rest, days: days.map(String) })),
    holidays: onHolidays === 'as other days' ? onHolidays : onHolidays.length === 0 ? 'nothing' : 'other hours',
    onHolidays: onHolidays === 'as other days' ? [] : onHolidays,
  };
};

const scheduleFrom = ({ name, periods, holidays, onHolidays }: Typed) => ({
  name,
  periods: periods.map(({ days, ...rest }) => ({ ...rest, days: [days].flat().map(Number).sort() })),
  onHolidays: holidays === 'as other days' ? holidays : holidays === 'nothing' ? [] : onHolidays,
});

const bodySchema = scheduleSchema.omit({ id: true });

export function EditSchedule({ schedule, access }: { schedule: Schedule | undefined; access: Access }) {
  const { id, may } = useSite();
  const navigate = useNavigateFromHere();
  const [form, draft] = useKeptForm('schedules', `${id} ${schedule?.id ?? 'new'}`, {
    resolver: checkedAs(bodySchema, (typed: Typed) => scheduleFrom(typed), { deep: true }),
    defaultValues: typedOf(schedule),
  });
  const { forget } = draft;
  const saved = useCallback(
    (made: string | null) => {
      forget();
      if (made) navigate(`/${id}/doors/schedules/${made}`);
    },
    [forget, navigate, id],
  );
  const changing = useAccessChange(saved, draft.undoes.length > 0);
  const subject = schedule && `schedule ${schedule.name}`;
  const words = (field: keyof Typed, value: unknown): [string, string] =>
    field === 'name'
      ? ['Name', String(value)]
      : ['Hours', scheduleInWords(scheduleFrom({ ...typedOf(schedule), [field]: value }))];
  const undoes = useUndoes(draft, words, subject);
  const removed = useAccessChange(() => {
    forget();
    navigate(`/${id}/doors/schedules`);
  });
  const mayChange = may('set up doors');
  const submit = form.handleSubmit((body) =>
    changing.propose({
      kind: 'schedule',
      id: schedule?.id ?? null,
      ...(schedule && { revision: schedule.revision }),
      ...body,
    }),
  );
  const users = access.groups.filter(({ rights }) => rights.some((right) => right.schedule === schedule?.id));
  const { errors } = form.formState;
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="One schedule">
      <form onSubmit={submit} className="flex flex-col gap-3" noValidate>
        <DraftNote draft={draft} />
        <Theirs draft={draft} words={words} {...(subject && { subject })} />
        <fieldset disabled={!mayChange} className="flex flex-col gap-3">
          <Field label="Name of the schedule" error={errors.name?.message}>
            {(props) => <input {...props} {...form.register('name')} className="input w-80" maxLength={120} />}
          </Field>
          <Periods form={form} />
          <OnHolidays form={form} />
        </fieldset>
        <Drawn form={form} access={access} />
        <p className="text-ink-2">
          {users.length > 0
            ? `${users.map(({ name }) => name).join(', ')} ${users.length === 1 ? 'goes' : 'go'} by it.`
            : 'No group goes by it yet.'}
        </p>
        <FailureNote failure={changing.proposed ? undefined : changing.error} />
        <FailureNote failure={removed.proposed ? undefined : removed.error} />
        {mayChange && (
          <div className="flex flex-wrap gap-2">
            <button type="submit" className="btn btn-primary" disabled={changing.busy}>
              {schedule ? 'Save' : 'Add the schedule'}
            </button>
            {schedule && (
              <button
                type="button"
                className="btn btn-line ml-auto"
                disabled={removed.busy || users.length > 0}
                title={users.length > 0 ? 'Give its groups another schedule first' : undefined}
                onClick={() => void removed.propose({ kind: 'remove schedule', id: schedule.id })}
              >
                Remove the schedule
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

type Form = UseFormReturn<
  Typed,
  unknown,
  { name: string; periods: Schedule['periods']; onHolidays: Schedule['onHolidays'] }
>;

function Periods({ form }: { form: Form }) {
  const { register, control, formState } = form;
  const { fields, append, remove } = useFieldArray({ control, name: 'periods' });
  return (
    <div className="flex flex-col gap-2">
      {fields.map((field, i) => {
        const wrong = formState.errors.periods?.[i];
        const message = wrong?.from?.message ?? wrong?.to?.message ?? wrong?.days?.message;
        return (
          <fieldset key={field.id} className="flex flex-wrap items-center gap-x-3 gap-y-1">
            <legend className="sr-only">Period {i + 1}</legend>
            <Times register={register} at={`periods.${i}`} called={`Period ${i + 1}`} />
            <span className="flex flex-wrap gap-2">
              {DAYS.map((day) => (
                <label key={day} className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    value={day}
                    className="checkbox checkbox-xs"
                    {...register(`periods.${i}.days`)}
                  />
                  {dayName(day).slice(0, 3)}
                </label>
              ))}
            </span>
            <button type="button" className="switch-link underline" onClick={() => remove(i)}>
              take out<span className="sr-only"> period {i + 1}</span>
            </button>
            {message && (
              <p role="alert" className="w-full font-bold text-signal">
                {message}
              </p>
            )}
          </fieldset>
        );
      })}
      <button
        type="button"
        className="btn btn-line btn-small self-start"
        onClick={() => append({ days: DAYS.slice(0, 5).map(String), from: '17:00', to: '22:00' })}
      >
        Another period
      </button>
    </div>
  );
}

interface TimesProps {
  register: Form['register'];
  at: `periods.${number}` | `onHolidays.${number}`;
  called: string;
}

function Times({ register, at, called }: TimesProps) {
  const time = (which: 'from' | 'to') => (
    <label className="flex items-center gap-1">
      {which === 'from' ? 'from' : 'to'}
      <span className="sr-only">, {called}</span>
      <input {...register(`${at}.${which}`)} className="input w-20 font-mono" maxLength={5} placeholder="08:00" />
    </label>
  );
  return (
    <>
      {time('from')}
      {time('to')}
    </>
  );
}

const HOLIDAY_CHOICES = {
  nothing: 'nothing',
  'as other days': 'as on other days',
  'other hours': 'hours of their own',
} as const;

function OnHolidays({ form }: { form: Form }) {
  const { register, control } = form;
  const choice = useWatch({ control, name: 'holidays' });
  const { fields, append, remove } = useFieldArray({ control, name: 'onHolidays' });
  return (
    <fieldset className="flex flex-col gap-2 border-t border-faint pt-2">
      <legend className="sr-only">On holidays</legend>
      <div className="flex flex-wrap items-center gap-x-4">
        <span className="text-ink-2">What begins on a holiday:</span>
        {Object.entries(HOLIDAY_CHOICES).map(([value, words]) => (
          <label key={value} className="flex items-center gap-1">
            <input type="radio" value={value} className="radio radio-xs" {...register('holidays')} />
            {words}
          </label>
        ))}
      </div>
      {choice === 'other hours' && (
        <>
          {fields.map((field, i) => (
            <div key={field.id} className="flex flex-wrap items-center gap-3">
              <Times register={register} at={`onHolidays.${i}`} called={`holiday period ${i + 1}`} />
              <button type="button" className="switch-link underline" onClick={() => remove(i)}>
                take out<span className="sr-only"> holiday period {i + 1}</span>
              </button>
            </div>
          ))}
          <button
            type="button"
            className="btn btn-line btn-small self-start"
            onClick={() => append({ from: '10:00', to: '14:00' })}
          >
            A period on holidays
          </button>
        </>
      )}
    </fieldset>
  );
}

/** This week as what was typed makes it, and a holiday under it. */
function Drawn({ form, access }: { form: Form; access: Access }) {
  const typed = useWatch({ control: form.control }) as Typed;
  const text = JSON.stringify(scheduleFrom(typed));
  const { zone, calendar } = access;
  const days = useMemo(() => {
    const checked = bodySchema.safeParse({ ...JSON.parse(text), name: 'typed' });
    return checked.success
      ? weekWithHoliday({ ...checked.data, id: '' }, { zone, holidays: calendar.holidays })
      : undefined;
  }, [text, zone, calendar.holidays]);
  if (!days) return <p className="text-ink-2">The week is drawn once each period has its times and a day.</p>;
  return <Week label="The week of this schedule" bands={[{ name: typed.name || 'this schedule', days }]} />;
}
