/** One box: its numbers, what became of its cards, its cards as a sheet, its label put to the test, and taking it back. */
import { type Box, boxApi, type NamedTranslation } from '@rawbits/api';
import { cardsOf } from '@rawbits/core/box';
import type { Format } from '@rawbits/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { CodeName } from '../../../parts/facility/CodeName.tsx';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useChangeBoxMutation, useTakeBoxBackMutation } from '../../../platform/endpoints/boxes.ts';
import { useCardsInfiniteQuery } from '../../../platform/endpoints/cards.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { useTranslationsQuery } from '../../../platform/endpoints/translations.ts';
import { toCsv } from '../../../platform/files/csv.ts';
import { download } from '../../../platform/files/download.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { momentWithZone } from '../../../platform/words/siteDays.ts';
import { counted } from '../../../platform/words/words.ts';
import { wayHead, wayOf } from '../toController.ts';
import { AgainstLabel } from './AgainstLabel.tsx';
import { statesInWords } from './BoxTable.tsx';
import { BoxWork } from './BoxWork.tsx';

/** Every card from its print to what a controller compares. */
export const sheetOf = (format: Format, box: Box, translations: readonly NamedTranslation[] = []): string[][] => [
  wayHead(translations),
  ...cardsOf(format, box).map((card) => wayOf({ ...card, facility: box.facility }, translations)),
];

export function OneBox({ box }: { box: Box }) {
  const { id, zone, may } = useSite();
  const { data: formats = [] } = useFormatsQuery(id);
  const { data: translations } = useTranslationsQuery(id);
  const format = formats.find((f) => f.format.id === box.formatId)?.format;
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="One box">
      <div>
        <h2 className="text-[1.15rem]">{box.name}</h2>
        <p className="text-ink-2">
          <span className="font-mono text-base-content">
            {box.facility !== null && `${box.facility}/`}
            {box.first} – {box.last}
          </span>{' '}
          <CodeName code={box.facility} format={box.formatId} />, {counted(box.count, 'card')} of {box.formatId}
        </p>
        <p>{statesInWords(box.states)}</p>
        <p className="text-ink-2">
          entered {momentWithZone(box.enteredAt, zone)} by {box.enteredBy}
        </p>
      </div>
      {may('keep cards') && <IssueNext box={box} />}
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        <Link to={`/${id}/stock?box=${box.id}`} className="underline">
          its cards
        </Link>
        {format && (
          <button
            type="button"
            className="switch-link underline"
            onClick={() => download(`${box.name}.csv`, toCsv(sheetOf(format, box, translations)), 'text/csv')}
          >
            every card with its bits, as CSV
          </button>
        )}
      </div>
      <About box={box} />
      {format && <AgainstLabel format={format} label={box} />}
      {may('keep cards') && <TakeBack box={box} />}
    </section>
  );
}

/** The card of the box with the lowest number that is still in stock, to be issued now. */
function IssueNext({ box }: { box: Box }) {
  const { id } = useSite();
  const { data } = useCardsInfiniteQuery({ site: id, box: box.id, state: 'in stock', order: 'number' });
  const next = data?.pages[0]?.cards[0];
  if (!next?.bits) return null;
  return (
    <p className="flex flex-wrap items-center gap-2">
      <Link to={`/${id}/stock?issue=${next.bits}&format=${box.formatId}`} className="btn btn-primary">
        Issue the next one
      </Link>
      <span>
        <span className="font-mono font-bold">{next.number}</span>
        {next.printed && <span className="text-ink-2"> printed {next.printed}</span>}
      </span>
    </p>
  );
}

const NAMES = { name: 'Name', notes: 'Note', blanks: 'Blank cards' };

function About({ box }: { box: Box }) {
  const { id, may } = useSite();
  const [change, { error, isLoading }] = useChangeBoxMutation();
  const [form, draft] = useKeptForm('boxes', `${id} ${box.id}`, {
    resolver: checkedAs(boxApi.update.body!, (typed: { name: string; notes: string; blanks: boolean }) => ({
      ...typed,
      revision: box.revision,
    })),
    defaultValues: { name: box.name, notes: box.notes, blanks: box.blanks },
  });
  const { register, formState } = form;
  const submit = form.handleSubmit(async (body) => {
    if ((await change({ site: id, id: box.id, ...body })).data) draft.forget();
  });
  return (
    <form onSubmit={submit} className="flex flex-col gap-2" aria-label={`Box ${box.name}`}>
      <DraftNote draft={draft} />
      <Theirs
        draft={draft}
        words={(field, value) => [NAMES[field], field === 'blanks' ? (value ? 'yes' : 'no') : String(value ?? '')]}
      />
      <fieldset disabled={!may('keep cards')} className="flex flex-col gap-2">
        <Field label="Name" error={formState.errors.name?.message}>
          {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
        </Field>
        <Field label="Supplier’s note" error={formState.errors.notes?.message}>
          {(props) => <textarea {...props} {...register('notes')} rows={2} className="textarea w-full" />}
        </Field>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-sm" {...register('blanks')} />
          <span>
            Blank cards, to be encoded with these numbers{' '}
            <span className="text-ink-2">(otherwise its cards have them already)</span>
          </span>
        </label>
      </fieldset>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        {may('keep cards') && (
          <button type="submit" className="btn btn-line" disabled={isLoading || !formState.isDirty}>
            Save
          </button>
        )}
        <Link to={`/${id}/stock/boxes`} className="btn btn-line">
          Close
        </Link>
      </div>
    </form>
  );
}

function TakeBack({ box }: { box: Box }) {
  const { id } = useSite();
  const navigate = useNavigateFromHere();
  const [asked, setAsked] = useState(false);
  const [work, setWork] = useState<string>();
  const [takeBack, { error, isLoading }] = useTakeBoxBackMutation();
  if (work)
    return (
      <BoxWork
        work={work}
        onDone={() => navigate(`/${id}/stock/boxes`)}
        onStopped={() => {
          setWork(undefined);
          setAsked(false);
        }}
      />
    );
  return (
    <div className="flex flex-col gap-2 border-t border-faint pt-3">
      {asked ? (
        <>
          <p>
            Takes all {counted(box.count, 'card')} of this box off the file, as if it had never been entered. The trail
            keeps that it was.
          </p>
          <div className="flex gap-2">
            <button
              type="button"
              className="btn btn-primary"
              disabled={isLoading}
              onClick={async () => {
                const { data } = await takeBack({ site: id, id: box.id, revision: String(box.revision) as never });
                if (data) setWork(data.id);
              }}
            >
              Take the whole box back
            </button>
            <button type="button" className="btn btn-line" onClick={() => setAsked(false)}>
              Keep it
            </button>
          </div>
        </>
      ) : (
        <button type="button" className="btn btn-line self-start" onClick={() => setAsked(true)}>
          Take this box back
        </button>
      )}
      <FailureNote failure={error} />
    </div>
  );
}
