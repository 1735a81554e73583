/** Issue a card: format, facility code and number by hand or from the latest read; who holds it; state and dates. */

import type { SiteFormat } from '@rawbits/api';
import type { CardState } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { encode, fitsOf } from '@rawbits/core/codec';
import { failureOf } from '@rawbits/core/failure';
import { labelOf } from '@rawbits/core/format';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import type { ReadInHand } from '../../parts/inHand/slice.ts';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { useAddCardholderMutation, useAddCardMutation } from '../../platform/endpoints/cards.ts';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { beginningOf, endOf, zoneHint } from '../../platform/words/siteDays.ts';
import { ByTranslation } from './ByTranslation.tsx';
import { HolderField } from './HolderField.tsx';
import { NEW_HOLDER, NewHolder } from './NewHolder.tsx';

const EMPTY = {
  formatId: '',
  facility: '',
  number: '',
  printed: '',
  holder: '',
  newName: '',
  newDepartment: '',
  state: 'active',
  validFrom: '',
  validTo: '',
};

/** What the latest read says under the site's formats, or under the one asked for. */
function fromRead(bits: string | undefined, formats: SiteFormat[], formatId: string | null) {
  if (!bits) return undefined;
  const usable = formats
    .filter((f) => f.adopted && (formatId === null || f.format.id === formatId))
    .map((f) => f.format);
  return fitsOf(Bits.fromBinary(bits), usable).find((fit) => fit.fit === 'full' && fit.values.number !== undefined);
}

/** The read that the form begins with, and the print typed for it; later ones do not replace it. */
function useHeldRead(from: 'read' | 'latest' | null) {
  const { inHand, latest, printed } = useAppSelector((state) => state.read);
  const [held, setHeld] = useState<{ read: ReadInHand; printed: string; latest: ReadInHand | null }>();
  const offered = from === 'read' ? inHand : from === 'latest' ? latest : null;
  const now = offered && { read: offered, printed: offered.bits === inHand?.bits ? printed : '', latest };
  // A page that has just been loaded has no read yet: the first one is what the form begins with.
  useEffect(() => {
    if (!held && now) setHeld(now);
  }, [held, now]);
  const later = held && latest && latest !== held.latest && latest.bits !== held.read.bits ? latest : undefined;
  return { held, later, take: () => later && setHeld({ read: later, printed: '', latest: later }) };
}

export function IssueCard({ from, formatId }: { from: 'read' | 'latest' | null; formatId: string | null }) {
  const clock = useClock();
  const { id, zone } = useSite();
  const { data: formats = [] } = useFormatsQuery(id);
  const { data: codes = [] } = useFacilityCodesQuery(id);
  const { held, later, take } = useHeldRead(from);
  const { register, control, handleSubmit, setValue, reset, getValues } = useForm({ defaultValues: EMPTY });
  const values = useWatch({ control });
  const [addCard, { error, isLoading }] = useAddCardMutation();
  const [addHolder, adding] = useAddCardholderMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const fit = useMemo(() => fromRead(held?.read.bits, formats, formatId), [held, formats, formatId]);
  const adopted = formats.filter((f) => f.adopted && f.format.spans.some((s) => s.role === 'number'));
  const format = adopted.find((f) => f.format.id === values.formatId)?.format;
  const carriesFacility = format?.spans.some((s) => s.role === 'facility') ?? false;

  const firstFormat = adopted[0]?.format.id;
  // A read fills the form in once; what is typed over it stays, whatever is fetched again.
  const filledFrom = useRef<ReadInHand>(undefined);
  useEffect(() => {
    if (fit && held) {
      if (filledFrom.current === held.read) return;
      filledFrom.current = held.read;
      const { facility = '', number } = fit.values;
      reset({ ...getValues(), formatId: fit.format.id, facility, number: number!, printed: held.printed });
    } else if (firstFormat && !getValues('formatId')) setValue('formatId', formatId ?? firstFormat);
  }, [fit, held, firstFormat, formatId, getValues, reset, setValue]);

  const preview = useMemo(() => {
    if (!format || !values.number || (carriesFacility && !values.facility)) return undefined;
    const other = format.spans.flatMap((s) => labelOf(s) ?? []).filter((l) => l !== 'number' && l !== 'facility');
    try {
      return {
        bits: encode(format, {
          ...Object.fromEntries(other.map((l) => [l, '0'])),
          number: values.number,
          ...(carriesFacility && { facility: values.facility ?? '' }),
        }),
      };
    } catch (thrown) {
      return { failure: failureOf(thrown) };
    }
  }, [format, values.number, values.facility, carriesFacility]);

  const submit = handleSubmit(async (form) => {
    let holderId: string | null = form.holder || null;
    if (holderId === NEW_HOLDER) {
      const holder = await addHolder({ site: id, name: form.newName, department: form.newDepartment });
      if (!holder.data) return;
      holderId = holder.data.id;
      setValue('holder', holderId);
    }
    const added = await addCard({
      site: id,
      card: {
        formatId: form.formatId,
        facility: carriesFacility ? form.facility : null,
        number: form.number,
        printed: form.printed,
        holderId,
        state: holderId === null ? 'in stock' : (form.state as CardState),
        validFrom: beginningOf(form.validFrom, zone),
        validTo: endOf(form.validTo, zone),
      },
    });
    if (!added.data) return;
    dispatch(said(`Card ${added.data.number} is on file; load the doors to let it in`));
    void navigate(`/${id}/stock/${added.data.id}`);
  });
  const fieldError = (field: string) =>
    error && 'where' in error && error.where?.field === field ? error.message : undefined;
  return (
    <form onSubmit={submit} className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Issue a card">
      <h2 className="text-[1.15rem]">Issue a card</h2>
      {from && held && (
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
      <div className="grid grid-cols-2 gap-3">
        <Field label="Format" className="col-span-2" error={fieldError('formatId')}>
          {(props) => (
            <select {...props} {...register('formatId')} className="select w-full" required>
              {adopted.map((f) => (
                <option key={f.format.id} value={f.format.id}>
                  {f.format.name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field
          label="Facility code"
          error={fieldError('facility')}
          hint={carriesFacility ? undefined : 'this format has none'}
        >
          {(props) => (
            <input
              {...props}
              {...register('facility')}
              list="facility-codes"
              inputMode="numeric"
              disabled={!carriesFacility}
              required={carriesFacility}
              className="input w-full font-mono"
            />
          )}
        </Field>
        <Field label="Number" error={fieldError('number')}>
          {(props) => (
            <input
              {...props}
              {...register('number')}
              inputMode="numeric"
              pattern="\d+"
              className="input w-full font-mono"
              required
            />
          )}
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
        <Field label="Printed on it" className="col-span-2">
          {(props) => <input {...props} {...register('printed')} className="input w-full font-mono" maxLength={80} />}
        </Field>
        <HolderField choice={register('holder')} value={values.holder} nobody="nobody: it stays in stock">
          <option value={NEW_HOLDER}>somebody new …</option>
        </HolderField>
        {values.holder === NEW_HOLDER && (
          <NewHolder name={register('newName')} department={register('newDepartment')} />
        )}
        <Field label="State" className="col-span-2">
          {(props) => (
            <select {...props} {...register('state')} className="select w-full" disabled={!values.holder}>
              <option value="active">active</option>
              <option value="issued">issued, not yet active</option>
            </select>
          )}
        </Field>
        <Field label="Valid from" hint={zoneHint(zone)}>
          {(props) => <input {...props} {...register('validFrom')} type="date" className="input w-full" />}
        </Field>
        <Field label="Valid through" hint={zoneHint(zone)} error={fieldError('validTo')}>
          {(props) => <input {...props} {...register('validTo')} type="date" className="input w-full" />}
        </Field>
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
      <FailureNote failure={error ?? adding.error} />
      <div className="flex gap-2">
        <button
          type="submit"
          className="btn btn-primary"
          disabled={isLoading || adding.isLoading || preview?.failure !== undefined}
        >
          {values.holder ? 'Issue' : 'Enter in stock'}
        </button>
        <button type="button" className="btn btn-line" onClick={() => void navigate(`/${id}/stock`)}>
          Cancel
        </button>
      </div>
    </form>
  );
}
