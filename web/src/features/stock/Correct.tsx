/** A card that was entered wrongly: its format, code or number put right, or the card taken back. */
import { type Card, cardChangeSchema } from '@rawbits/api';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { DraftNote, Theirs } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useChangeCardMutation, useTakeCardBackMutation } from '../../platform/endpoints/cards.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { FormatOptions } from './FormatOptions.tsx';
import { carriesFacility, previewOf } from './issuing.ts';

export function Correct({ card }: { card: Card }) {
  const [doing, setDoing] = useState<'correct' | 'take back'>();
  const done = () => setDoing(undefined);
  if (doing === 'correct') return <Correction card={card} onDone={done} />;
  if (doing === 'take back') return <TakeBack card={card} onDone={done} />;
  return (
    <p className="flex flex-wrap items-center gap-2 border-t border-faint pt-3">
      <span className="text-ink-2">Entered wrongly?</span>
      <button type="button" className="btn btn-line btn-small" onClick={() => setDoing('correct')}>
        Correct it …
      </button>
      <button type="button" className="btn btn-line btn-small" onClick={() => setDoing('take back')}>
        Take it back …
      </button>
    </p>
  );
}

interface Props {
  card: Card;
  onDone: () => void;
}

const NAMES = { formatId: 'Format', facility: 'Facility code', number: 'Number' };

function Correction({ card, onDone }: Props) {
  const { id: site } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  const usable = formats.filter((f) => f.adopted && f.format.spans.some(({ role }) => role === 'number'));
  const [change, { error, isLoading }] = useChangeCardMutation();
  const [{ register, control, handleSubmit, formState }, draft] = useKeptForm(
    'corrections of cards',
    `${site} ${card.id}`,
    {
      resolver: checkedAs(cardChangeSchema, (typed: { formatId: string; facility: string; number: string }) => {
        const format = formats.find((f) => f.format.id === typed.formatId)?.format;
        return { ...typed, facility: carriesFacility(format) ? typed.facility : null, revision: card.revision };
      }),
      defaultValues: { formatId: card.formatId, facility: card.facility ?? '', number: card.number },
    },
  );
  const { formatId = '', facility, number } = useWatch({ control });
  const format = usable.find((f) => f.format.id === formatId)?.format;
  const preview = useMemo(() => previewOf(format, { facility, number }), [format, facility, number]);
  const submit = handleSubmit(async (body) => {
    if (!(await change({ site, id: card.id, change: body })).data) return;
    draft.forget();
    onDone();
  });
  const own = useInSight<HTMLFormElement>('select');
  return (
    <form
      ref={own}
      onSubmit={submit}
      className="grid grid-cols-2 gap-3 border-t border-faint pt-3"
      aria-label="Correct the card"
    >
      <p className="col-span-2">
        For a card in the hand that is another than was entered. Holder, state and days stay; doors that have it are
        loaded anew.
      </p>
      <DraftNote draft={draft} />
      <Theirs draft={draft} words={(field, value) => [NAMES[field], String(value ?? '')]} />
      <Field label="Format" className="col-span-2">
        {(props) => (
          <select {...props} {...register('formatId')} className="select w-full">
            <FormatOptions formats={usable} />
          </select>
        )}
      </Field>
      {carriesFacility(format) && (
        <Field label="Facility code" error={formState.errors.facility?.message}>
          {(props) => (
            <input {...props} {...register('facility')} inputMode="numeric" className="input w-full font-mono" />
          )}
        </Field>
      )}
      <Field label="Number" error={formState.errors.number?.message}>
        {(props) => <input {...props} {...register('number')} inputMode="numeric" className="input w-full font-mono" />}
      </Field>
      <div className="col-span-2 min-h-8">
        {preview?.bits && <MiniTape bits={preview.bits.toBinary()} width={340} />}
        {preview?.failure && <p className="text-signal">{preview.failure.message}</p>}
        <FailureNote failure={error} />
      </div>
      <div className="col-span-2 flex gap-2">
        <button
          type="submit"
          className="btn btn-primary"
          disabled={isLoading || !formState.isDirty || preview?.failure !== undefined}
        >
          Correct it
        </button>
        <button
          type="button"
          className="btn btn-line"
          onClick={() => {
            draft.forget();
            onDone();
          }}
        >
          Leave it
        </button>
      </div>
    </form>
  );
}

/** What opens below what is seen comes into sight, with the focus in it. */
function useInSight<E extends HTMLElement>(focused: string) {
  const own = useRef<E>(null);
  useEffect(() => {
    own.current!.querySelector<HTMLElement>(focused)!.focus({ preventScroll: true });
    own.current!.scrollIntoView?.({ block: 'end' });
  }, [focused]);
  return own;
}

function TakeBack({ card, onDone }: Props) {
  // On the one that does nothing.
  const own = useInSight<HTMLFieldSetElement>('button:last-of-type');
  const { id: site } = useSite();
  const [takeBack, { error, isLoading }] = useTakeCardBackMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigateFromHere();
  const take = async () => {
    if (!(await takeBack({ site, id: card.id, revision: card.revision })).data) return;
    dispatch(said(`Card ${card.number} is taken back`));
    navigate(`/${site}/stock`);
  };
  return (
    <fieldset ref={own} className="flex flex-col gap-2 border border-signal p-3">
      <legend className="px-1 font-bold">Take card {card.number} back?</legend>
      <p>
        For a card that should never have been entered: it is on file no more
        {card.loaded.in > 0 && ', and the doors that have it forget it when they are loaded next'}. The trail keeps what
        it was. A card that is lost or not needed any more is better set so under State.
      </p>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="button" className="btn btn-primary" disabled={isLoading} onClick={() => void take()}>
          Take it back
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Leave it
        </button>
      </div>
    </fieldset>
  );
}
