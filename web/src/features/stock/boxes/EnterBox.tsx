/** Enter a box from its label: typed, reviewed, entered. */
import { othersOf } from '@rawbits/core/box';
import { useEffect, useRef, useState } from 'react';
import { namedCode } from '../../../parts/facility/codeNames.ts';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useFacilityCodesQuery } from '../../../platform/endpoints/facilityCodes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { FormatOptions } from '../FormatOptions.tsx';
import { carriesFacility } from '../issuing.ts';
import { AgainstLabel } from './AgainstLabel.tsx';
import { BoxWork } from './BoxWork.tsx';
import { boxFrom, countTyped, type Entering, lastFrom, useEntering } from './entering.ts';
import { FromElsewhere } from './FromElsewhere.tsx';
import type { Line } from './NumberMap.tsx';
import { Review } from './Review.tsx';

interface Props {
  given: URLSearchParams;
  /** The line of numbers that the box stands on, as it is typed. */
  onLine: (line: Line) => void;
}

export function EnterBox({ given, onLine }: Props) {
  const { id } = useSite();
  const navigate = useNavigateFromHere();
  const [work, setWork] = useState<string>();
  const entering = useEntering(given, setWork);
  const { draft, review, submit, take, error, busy, values, format } = entering;
  const { formatId } = values;
  const facility = format && carriesFacility(format) ? values.facility : null;
  useEffect(() => {
    if (formatId && facility !== '') onLine({ formatId, facility });
  }, [formatId, facility, onLine]);
  const panel = useRef<HTMLElement>(null);
  // The review is what is to be looked at next.
  useEffect(() => {
    if (review) panel.current?.querySelector('[data-testid=review]')?.scrollIntoView({ block: 'nearest' });
  }, [review]);
  return (
    <section ref={panel} className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Entering a box">
      <h2 className="text-[1.15rem]">Enter a box</h2>
      {work ? (
        <BoxWork
          work={work}
          onDone={(box) => {
            draft.forget();
            navigate(`/${id}/stock/boxes/${box}`);
          }}
          onStopped={() => setWork(undefined)}
        />
      ) : (
        <form onSubmit={review ? take : submit} className="flex flex-col gap-3" aria-label="Enter a box" noValidate>
          <DraftNote draft={draft} />
          <div className="grid grid-cols-6 gap-3">
            <Numbers entering={entering} />
            <FromElsewhere entering={entering} />
            <Prints entering={entering} />
            <Rest entering={entering} />
          </div>
          {review && <Review review={review} />}
          <FailureNote failure={error} />
          <div className="sticky -bottom-4 flex gap-2 bg-base-100 py-2">
            {review ? (
              <button type="submit" className="btn btn-primary" disabled={busy || review.fresh === 0}>
                {review.onFile.cards === 0
                  ? `Enter ${review.count.toLocaleString('en')} cards`
                  : `Leave ${review.onFile.cards.toLocaleString('en')} out, enter ${review.fresh.toLocaleString('en')}`}
              </button>
            ) : (
              <button type="submit" className="btn btn-primary" disabled={busy}>
                Review
              </button>
            )}
            <button
              type="button"
              className="btn btn-line"
              onClick={() => {
                draft.forget();
                navigate(`/${id}/stock/boxes`);
              }}
            >
              Cancel
            </button>
          </div>
          {review && format && <AgainstLabel format={format} label={boxFrom(format, values, entering.translations)} />}
        </form>
      )}
    </section>
  );
}

function Numbers({ entering: { form, values, usable, format, wrongAt } }: { entering: Entering }) {
  const { id } = useSite();
  const { data: codes = [] } = useFacilityCodesQuery(id);
  const { register, setValue } = form;
  const [count, setCount] = useState<string>();
  const told = countTyped(values);
  const carried = carriesFacility(format);
  return (
    <>
      <Field label="Format" className={carried ? 'col-span-4' : 'col-span-6'} error={wrongAt('formatId')}>
        {(props) => (
          <select {...props} {...register('formatId')} className="select w-full">
            <FormatOptions formats={usable} />
          </select>
        )}
      </Field>
      {carried && (
        <Field
          label="Facility code"
          className="col-span-2"
          error={wrongAt('facility')}
          hint={namedCode(codes, values.facility, values.formatId)?.name}
        >
          {(props) => (
            <input
              {...props}
              {...register('facility')}
              list="box-codes"
              inputMode="numeric"
              className="input w-full font-mono"
            />
          )}
        </Field>
      )}
      <datalist id="box-codes">
        {codes.map((code) => (
          <option key={code.id} value={code.code}>
            {code.name}
          </option>
        ))}
      </datalist>
      <Field label="First number" className="col-span-2" error={wrongAt('first')}>
        {(props) => <input {...props} {...register('first')} inputMode="numeric" className="input w-full font-mono" />}
      </Field>
      <Field label="Last number" className="col-span-2" error={wrongAt('last')}>
        {(props) => (
          <input
            {...props}
            {...register('last', { onChange: () => setCount(undefined) })}
            inputMode="numeric"
            className="input w-full font-mono"
          />
        )}
      </Field>
      <Field label="or how many" className="col-span-2">
        {(props) => (
          <input
            {...props}
            value={count ?? told?.toString() ?? ''}
            onChange={({ target: { value } }) => {
              setCount(value);
              const last = lastFrom(values.first, value);
              if (last !== undefined) setValue('last', last, { shouldDirty: true });
            }}
            onBlur={() => setCount(undefined)}
            inputMode="numeric"
            className="input w-full font-mono"
          />
        )}
      </Field>
      {format &&
        othersOf(format).map((label) => (
          <Field key={label} label={label} className="col-span-2" error={wrongAt('values')}>
            {(props) => (
              <input
                {...props}
                {...register(`values.${label}`)}
                inputMode="numeric"
                className="input w-full font-mono"
              />
            )}
          </Field>
        ))}
    </>
  );
}

function Prints({ entering: { form, values, translations, wrongAt } }: { entering: Entering }) {
  const { register } = form;
  return (
    <>
      <Field label="Printed on the cards" className={values.print === 'number' ? 'col-span-6' : 'col-span-3'}>
        {(props) => (
          <select {...props} {...register('print')} className="select w-full">
            <option value="number">the number, as its format says</option>
            <option value="up">other numbers, counting up</option>
            <option value="down">other numbers, counting down</option>
            {translations.length > 0 && <option value="translation">what another device shows</option>}
          </select>
        )}
      </Field>
      {values.print === 'translation' && (
        <Field label="by the translation" className="col-span-3" error={wrongAt('print')}>
          {(props) => (
            <select
              {...props}
              {...register('printBy')}
              value={values.printBy || translations[0]?.id}
              className="select w-full"
            >
              {translations.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      {(values.print === 'up' || values.print === 'down') && (
        <Field
          label="Print of the first"
          className="col-span-3"
          error={wrongAt('print')}
          hint="with its zeros in front, on the card of the first number"
        >
          {(props) => (
            <input {...props} {...register('firstPrint')} inputMode="numeric" className="input w-full font-mono" />
          )}
        </Field>
      )}
    </>
  );
}

function Rest({ entering: { form, values, wrongAt } }: { entering: Entering }) {
  const { register } = form;
  const named = boxFrom(undefined, { ...values, name: '' }).name;
  return (
    <>
      <Field label="Name of the box" className="col-span-3" error={wrongAt('name')}>
        {(props) => (
          <input
            {...props}
            {...register('name')}
            placeholder={values.first && values.last ? named : 'colour, supplier, order'}
            className="input w-full"
            maxLength={120}
          />
        )}
      </Field>
      <Field label="State" className="col-span-3" hint="opens nothing until it is issued">
        {(props) => (
          <select {...props} {...register('state')} className="select w-full">
            <option>in stock</option>
            <option>suspended</option>
          </select>
        )}
      </Field>
      <label className="col-span-6 flex items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-sm" {...register('blanks')} />
        <span>
          Blank cards, to be encoded with these numbers{' '}
          <span className="text-ink-2">(otherwise its cards have them already)</span>
        </span>
      </label>
      <Field label="Supplier’s note" className="col-span-6" error={wrongAt('notes')}>
        {(props) => <textarea {...props} {...register('notes')} rows={2} className="textarea w-full" />}
      </Field>
    </>
  );
}
