/** One card: what it delivers, who holds it, its state and dates, whether the doors have it, and what was done with it. */

import { type Card, cardChangeSchema } from '@rawbits/api';
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { useState } from 'react';
import { type UseFormReturn, useWatch } from 'react-hook-form';
import { Link } from 'react-router';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import { CodeName } from '../../parts/facility/CodeName.tsx';
import { isAlarming, isStopped, isWaiting, opensWords, otherWords } from '../../parts/opens/opens.ts';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { DraftNote, Theirs } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useChangeCardMutation } from '../../platform/endpoints/cards.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { beginningOf, dayOf, endOf, lastDayBefore, zoneHint } from '../../platform/words/siteDays.ts';
import { CardHistory } from './CardHistory.tsx';
import { Correct } from './Correct.tsx';
import { Groups } from './Groups.tsx';
import { HolderField } from './HolderField.tsx';
import { LoadToo } from './LoadToo.tsx';
import { Replace } from './Replace.tsx';
import { useLoadFor } from './useLoadFor.ts';

interface Typed {
  holderId: string;
  state: string;
  printed: string;
  validFrom: string;
  validTo: string;
  notes: string;
}

const typedOf = ({ holder, state, printed, validFrom, validTo, notes }: Card, zone: string): Typed => ({
  holderId: holder?.id ?? '',
  state,
  printed,
  validFrom: dayOf(validFrom, zone),
  validTo: lastDayBefore(validTo, zone),
  notes,
});

const NAMES: Record<keyof Typed, string> = {
  holderId: 'Held by',
  state: 'State',
  printed: 'Printed on it',
  validFrom: 'Valid from',
  validTo: 'Valid through',
  notes: 'Notes',
};

/** Who holds a card by what is saved, or was chosen here. */
function holderWords({ holder }: Card, value: unknown): string {
  if (!value) return 'nobody';
  return holder?.id === value ? holder.name : 'the one chosen here';
}

export function OneCard({ card }: { card: Card }) {
  const { id, zone, may } = useSite();
  const [change, { error, isLoading }] = useChangeCardMutation();
  const [form, draft] = useKeptForm('cards', `${id} ${card.id}`, {
    resolver: checkedAs(cardChangeSchema, ({ holderId, validFrom, validTo, state, ...rest }: Typed) => ({
      ...rest,
      revision: card.revision,
      state: state as CardState,
      holderId: holderId || null,
      validFrom: beginningOf(validFrom, zone),
      validTo: endOf(validTo, zone),
    })),
    defaultValues: typedOf(card, zone),
  });
  const state = useWatch({ control: form.control, name: 'state' });
  const [chosen, setChosen] = useState<boolean>();
  // Also where it was stopped before, but not loaded as such.
  const stillOpens = isStopped(state) && card.opens.doors.length > 0;
  const changesDoors = state !== card.state && (stillOpens || isStopped(state) !== isStopped(card.state));
  const loads = changesDoors && may('load doors') && (chosen ?? isStopped(state));
  const loadFor = useLoadFor();
  const dispatch = useAppDispatch();
  const submit = form.handleSubmit(async (body) => {
    if (!(await change({ site: id, id: card.id, change: body })).data) return;
    draft.forget();
    setChosen(undefined);
    if (loads) dispatch(said(`Card ${card.number} is ${body.state}; ${await loadFor([card.formatId])}`));
  });
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="One card">
      <Head card={card} />
      <form onSubmit={submit} className="flex flex-col gap-3" aria-label={`Card ${card.number}`}>
        <DraftNote draft={draft} />
        <Theirs
          draft={draft}
          subject={`card ${card.facility === null ? '' : `${card.facility}/`}${card.number}`}
          words={(field, value) => [
            NAMES[field],
            field === 'holderId' ? holderWords(card, value) : String(value ?? ''),
          ]}
        />
        <Fields form={form} card={card} />
        {changesDoors && may('load doors') && (
          <LoadToo
            checked={loads}
            onChange={setChosen}
            why={
              isStopped(state)
                ? 'until then it opens the doors that it opens today'
                : 'until then it opens nothing that it does not open today'
            }
          />
        )}
        <FailureNote failure={error} />
        <div className="flex gap-2">
          {may('keep cards') && (
            <button type="submit" className="btn btn-primary" disabled={isLoading || !form.formState.isDirty}>
              Save
            </button>
          )}
          <Link to={`/${id}/stock`} className="btn btn-line">
            Close
          </Link>
        </div>
      </form>
      {card.holder && (
        <Groups
          label="Groups of the card itself"
          of="this card"
          groups={card.groups}
          changeFrom={(add, remove) => ({
            kind: 'card',
            id: card.id,
            groups: [...card.groups.filter((group) => !remove.includes(group)), ...add],
          })}
        />
      )}
      {may('keep cards') && <Replace card={card} />}
      {may('keep cards') && <Correct card={card} />}
      <CardHistory card={card} />
    </section>
  );
}

function Head({ card }: { card: Card }) {
  const { id, may } = useSite();
  return (
    <>
      <div>
        <h2 className="text-[1.15rem]">
          Card {card.facility !== null && <span className="font-mono text-secondary">{card.facility}/</span>}
          <span className="font-mono">{card.number}</span> <CodeName code={card.facility} format={card.formatId} />
        </h2>
        <p className={isAlarming(card) ? 'text-signal' : 'text-ink-2'} data-testid="opens">
          {opensWords(card)}
          {card.opens.doors.length > 0 && `: ${card.opens.doors.map(({ name }) => name).join(', ')}`}
          {isWaiting(card) && may('load doors') && (
            <>
              {'. '}
              <Link to={`/${id}/doors`} className="underline">
                Load the controllers
              </Link>
            </>
          )}
        </p>
      </div>
      {otherWords(card).length > 0 && (
        <p className="text-signal" role="note">
          Its bits also fit another card, whatever the state of this one: they open {otherWords(card).join('; ')}.
        </p>
      )}
      {card.box && (
        <p className="text-ink-2">
          of the box{' '}
          <Link to={`/${id}/stock/boxes/${card.box.id}`} className="underline">
            {card.box.name}
          </Link>
        </p>
      )}
      {card.bits && (
        <p className="flex items-center gap-2">
          <MiniTape bits={card.bits} width={300} />
          <span className="font-mono text-ink-2">{Bits.fromBinary(card.bits).toHex()}</span>
          <CopyButton text={card.bits} what="the bits that it delivers" />
        </p>
      )}
    </>
  );
}

function Fields<O>({ form, card }: { form: UseFormReturn<Typed, unknown, O>; card: Card }) {
  const { zone, may } = useSite();
  const { register, control, formState } = form;
  const holder = useWatch({ control, name: 'holderId' });
  return (
    <fieldset disabled={!may('keep cards')} className="grid grid-cols-2 gap-3">
      <HolderField choice={register('holderId')} value={holder} holder={card.holder} nobody="nobody" />
      <Field label={NAMES.state} className="col-span-2">
        {(props) => (
          <select {...props} {...register('state')} className="select w-full">
            {CARD_STATES.map((state) => (
              <option key={state}>{state}</option>
            ))}
          </select>
        )}
      </Field>
      <Field label={NAMES.validFrom} hint={zoneHint(zone)}>
        {(props) => <input {...props} {...register('validFrom')} type="date" className="input w-full" />}
      </Field>
      <Field label={NAMES.validTo} hint={zoneHint(zone)}>
        {(props) => <input {...props} {...register('validTo')} type="date" className="input w-full" />}
      </Field>
      <Field label={NAMES.printed} className="col-span-2">
        {(props) => <input {...props} {...register('printed')} className="input w-full font-mono" maxLength={80} />}
      </Field>
      <Field label={NAMES.notes} className="col-span-2" error={formState.errors.notes?.message}>
        {(props) => <textarea {...props} {...register('notes')} rows={2} className="textarea w-full" />}
      </Field>
    </fieldset>
  );
}
