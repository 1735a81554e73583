/** Issue a card: format, facility code and number by hand or from the latest read; who holds it; state and dates. */

import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { zoneHint } from '../../platform/words/siteDays.ts';
import { ByTranslation } from './ByTranslation.tsx';
import { HolderField } from './HolderField.tsx';
import { carriesFacility, previewOf } from './issuing.ts';
import { NEW_HOLDER, NewHolder } from './NewHolder.tsx';
import { useIssuing } from './useIssuing.ts';

type Issuing = ReturnType<typeof useIssuing>;

export function IssueCard({ from, formatId }: { from: 'read' | 'latest' | null; formatId: string | null }) {
  const { id } = useSite();
  const navigate = useNavigate();
  const issuing = useIssuing(from, formatId);
  const { values, format, submit, error, busy } = issuing;
  const { facility, number, holderId } = values;
  const preview = useMemo(() => previewOf(format, { facility, number }), [format, facility, number]);
  return (
    <form
      onSubmit={submit}
      className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4"
      aria-label="Issue a card"
      noValidate
    >
      <h2 className="text-[1.15rem]">Issue a card</h2>
      {from && <WhichRead issuing={issuing} />}
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
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={busy || preview?.failure !== undefined}>
          {holderId ? 'Issue' : 'Enter in stock'}
        </button>
        <button type="button" className="btn btn-line" onClick={() => void navigate(`/${id}/stock`)}>
          Cancel
        </button>
      </div>
    </form>
  );
}

/** The read that the form was filled in from, and the later one that it could be. */
function WhichRead({ issuing: { held, fit, later, take } }: { issuing: Issuing }) {
  const clock = useClock();
  return (
    <>
      {held && (
        <p className={fit ? 'text-ink-2' : 'text-signal'}>
          {fit
            ? `From the read at ${held.read.from}, ${clock(held.read.at)}: ${fit.format.name}.`
            : 'This read fits no format in use at this site. Accept its format at a door first, or fill in by hand.'}
        </p>
      )}
      {later && (
        <p role="status" data-testid="later-read">
          A later read came in from {later.from}, {clock(later.at)}. This form keeps the one that it began with.{' '}
          <button type="button" className="switch-link underline" onClick={take}>
            use the later one
          </button>
        </p>
      )}
    </>
  );
}

function TheCard({ issuing: { form, values, adopted, format, wrongAt } }: { issuing: Issuing }) {
  const { id } = useSite();
  const { data: codes = [] } = useFacilityCodesQuery(id);
  const { register, setValue } = form;
  const carried = carriesFacility(format);
  return (
    <>
      <Field label="Format" className="col-span-2" error={wrongAt('formatId')}>
        {(props) => (
          <select {...props} {...register('formatId')} className="select w-full">
            {adopted.map((f) => (
              <option key={f.format.id} value={f.format.id}>
                {f.format.name}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field label="Facility code" error={wrongAt('facility')} hint={carried ? undefined : 'this format has none'}>
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
