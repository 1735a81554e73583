/** Issue a card: format, facility code and number by hand or from the latest read; who holds it; state and dates. */

import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { namedCode, reservedFor } from '../../parts/facility/codeNames.ts';
import { whence } from '../../parts/inHand/slice.ts';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { zoneHint } from '../../platform/words/siteDays.ts';
import { AtReader } from './AtReader.tsx';
import { ByTranslation } from './ByTranslation.tsx';
import { ByWholeString, useWholeString } from './ByWholeString.tsx';
import { FormatOptions } from './FormatOptions.tsx';
import { HolderField } from './HolderField.tsx';
import { type Held, readAsked, useHeldRead } from './heldRead.ts';
import { FromStock, OnFile, WhichFormat } from './IssueDoubts.tsx';
import { carriesFacility } from './issuing.ts';
import { NEW_HOLDER, NewHolder } from './NewHolder.tsx';
import { Unfinished } from './Unfinished.tsx';
import { BY_HAND, type Issuing, useHandOn, useIssuing } from './useIssuing.ts';

/** `issue` says from what: the read in hand, the latest one, one by its bits, or by hand. */
export function IssueCard({ issue, formatId }: { issue: string; formatId: string | null }) {
  const { held, later, take } = useHeldRead(issue);
  const waits = !held && readAsked(issue) !== null;
  const clock = useClock();
  const handOn = useHandOn();
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Issuing">
      <h2 className="text-[1.15rem]">Issue a card</h2>
      <AtReader />
      {waits ? (
        <Waiting />
      ) : (
        <Form
          key={held?.read.bits ?? BY_HAND}
          held={held}
          formatId={formatId}
          later={(typed) =>
            later && (
              <p role="status" data-testid="later-read">
                A later read came in {whence(later.from)}, {clock(later.at)}. This form keeps the one that it began
                with.{' '}
                <button
                  type="button"
                  className="switch-link underline"
                  onClick={() => {
                    handOn(typed, later.bits);
                    take();
                  }}
                >
                  use the later one
                </button>
              </p>
            )
          }
        />
      )}
      <Unfinished but={held?.read.bits ?? BY_HAND} />
    </section>
  );
}

/** There is no read yet that the form could begin with. */
function Waiting() {
  const { id } = useSite();
  return (
    <p className="text-ink-2">
      Hold the card to a reader, or paste its read: the form fills itself in. Or{' '}
      <Link to={`/${id}/stock?issue=new`} className="underline">
        fill it in by hand
      </Link>
      .
    </p>
  );
}

interface FormProps {
  held: Held | undefined;
  formatId: string | null;
  later: (typed: Issuing['values']) => React.ReactNode;
}

function Form({ held, formatId, later }: FormProps) {
  const { id } = useSite();
  const navigate = useNavigate();
  const issuing = useIssuing(held, formatId);
  const holding = useWholeString(held?.read.bits, issuing);
  const { values, draft, preview, submit, error, busy, sameBits, format, inStock, doubt } = issuing;
  const [allTheSame, setAllTheSame] = useState(false);
  const own = useRef<HTMLFormElement>(null);
  // Where the read has said what the card is, who is to hold it is asked next.
  const [isTold] = useState(held !== undefined && values.number !== '' && values.formatId !== '');
  useEffect(() => {
    if (isTold) own.current?.querySelector<HTMLElement>('[name=holderId]')?.focus({ preventScroll: true });
  }, [isTold]);
  const { holderId, number } = values;
  const others = sameBits.filter((card) => card !== inStock);
  const isOnFile = others.some((card) => card.formatId === format?.id && card.number === number);
  const mayNot =
    busy ||
    format === undefined ||
    preview?.failure !== undefined ||
    isOnFile ||
    (others.length > 0 && !allTheSame) ||
    (inStock !== undefined && holderId === '');
  return (
    <form ref={own} onSubmit={submit} className="flex flex-col gap-3" aria-label="Issue a card" noValidate>
      {held && issuing.ways.length === 0 && <ByWholeString length={held.read.bits.length} holding={holding} />}
      {held && issuing.ways.length > 0 && <WhichRead held={held} issuing={issuing} />}
      {later(values)}
      <DraftNote draft={draft} />
      {issuing.ways.length > 1 && <WhichFormat issuing={issuing} />}
      <div className="grid grid-cols-2 gap-3">
        <TheCard issuing={issuing} />
        <WhoHoldsIt issuing={issuing} />
      </div>
      <div className="min-h-12">
        {preview?.bits && (
          <>
            <p className="text-ink-2">It will deliver {preview.bits.length} bits:</p>
            <MiniTape bits={preview.bits.toBinary()} width={340} />
          </>
        )}
        {preview?.failure && <p className="text-signal">{preview.failure.message}</p>}
      </div>
      {inStock && <FromStock card={inStock} />}
      {doubt && (
        <p role="status" className="text-signal" data-testid="print-doubt">
          {doubt} Look at both again; it can be issued all the same.
        </p>
      )}
      {others.length > 0 && (
        <OnFile cards={others} mayGoOn={!isOnFile} allTheSame={allTheSame} onAllTheSame={setAllTheSame} />
      )}
      <FailureNote failure={error} />
      <div className="sticky -bottom-4 flex gap-2 bg-base-100 py-2">
        <button type="submit" className="btn btn-primary" disabled={mayNot}>
          {holderId || inStock ? 'Issue' : 'Enter in stock'}
        </button>
        <button
          type="button"
          className="btn btn-line"
          onClick={() => {
            draft.forget();
            void navigate(`/${id}/stock`);
          }}
        >
          Cancel
        </button>
      </div>
    </form>
  );
}

/** The read that the form was filled in from. */
function WhichRead({ held: { read }, issuing: { ways } }: { held: Held; issuing: Issuing }) {
  const clock = useClock();
  const from = read.from
    ? `From the read ${whence(read.from).replace(/^from /, 'at ')}, ${clock(read.at)}`
    : 'From an earlier read';
  const [only] = ways;
  return <p className="text-ink-2">{ways.length === 1 ? `${from}: ${only!.format.name}.` : `${from}.`}</p>;
}

function TheCard({ issuing: { form, values, adopted, format, wrongAt } }: { issuing: Issuing }) {
  const { id } = useSite();
  const { data: codes = [] } = useFacilityCodesQuery(id);
  const { register, setValue } = form;
  const carried = carriesFacility(format);
  const named = carried ? namedCode(codes, values.facility, values.formatId) : undefined;
  const reserved = reservedFor(named, values.number);
  return (
    <>
      <Field label="Format" className="col-span-2" error={wrongAt('formatId')}>
        {(props) => (
          <select {...props} {...register('formatId')} className="select w-full">
            {values.formatId === '' && <option value="">choose …</option>}
            <FormatOptions formats={adopted} />
          </select>
        )}
      </Field>
      <Field
        label="Facility code"
        error={wrongAt('facility')}
        hint={carried ? named?.name : format && 'this format has none'}
      >
        {(props) => (
          <input
            {...props}
            {...register('facility')}
            list="facility-codes"
            inputMode="numeric"
            disabled={!carried}
            className="input w-full font-mono"
          />
        )}
      </Field>
      <Field label="Number" error={wrongAt('number')}>
        {(props) => <input {...props} {...register('number')} inputMode="numeric" className="input w-full font-mono" />}
      </Field>
      {reserved !== undefined && (
        <p role="status" className="col-span-2 text-signal" data-testid="reserved">
          Number {values.number} is reserved under {named!.name}: {reserved}. It can be issued all the same.
        </p>
      )}
      <ByTranslation onNumber={(number) => setValue('number', number)} />
      <datalist id="facility-codes">
        {codes
          .filter((code) => code.formatId === null || code.formatId === values.formatId)
          .map((code) => (
            <option key={code.id} value={code.code}>
              {code.name}
            </option>
          ))}
      </datalist>
      <Field label="Printed on it" className="col-span-2" error={wrongAt('printed')}>
        {(props) => <input {...props} {...register('printed')} className="input w-full font-mono" maxLength={80} />}
      </Field>
    </>
  );
}

function WhoHoldsIt({ issuing: { form, values, wrongAt } }: { issuing: Issuing }) {
  const { zone } = useSite();
  const { register } = form;
  return (
    <>
      <HolderField choice={register('holderId')} value={values.holderId} nobody="nobody: it stays in stock">
        <option value={NEW_HOLDER}>somebody new …</option>
      </HolderField>
      {values.holderId === NEW_HOLDER && (
        <NewHolder name={register('newName')} department={register('newDepartment')} />
      )}
      <Field label="State" className="col-span-2" error={wrongAt('state')}>
        {(props) => (
          <select {...props} {...register('state')} className="select w-full" disabled={!values.holderId}>
            <option value="active">active</option>
            <option value="issued">issued, not yet active</option>
          </select>
        )}
      </Field>
      <Field label="Valid from" hint={zoneHint(zone)} error={wrongAt('validFrom')}>
        {(props) => <input {...props} {...register('validFrom')} type="date" className="input w-full" />}
      </Field>
      <Field label="Valid through" hint={zoneHint(zone)} error={wrongAt('validTo')}>
        {(props) => <input {...props} {...register('validTo')} type="date" className="input w-full" />}
      </Field>
    </>
  );
}
