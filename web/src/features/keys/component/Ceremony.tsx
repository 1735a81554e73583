/** A version that waits for components: who gave one, and giving one's own, made here or typed from a sheet. */
import { type ComponentSheet, givenComponentSchema, type Key, type KeyVersion } from '@rawbits/api';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import {
  useComponentSheetMutation,
  useGiveComponentMutation,
  useGiveUpKeyVersionMutation,
} from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useClock } from '../../../platform/site/useClock.ts';
import { useSite } from '../../../platform/site/useSite.ts';

interface Props {
  of: Key;
  version: KeyVersion;
  open: boolean;
  /** Whether a sheet is shown: first that is taken. */
  showing: boolean;
  /** Told of a sheet, which is to be shown until it is taken: this may be gone by then, as the key is there. */
  onSheet: (sheet: ComponentSheet) => void;
}

export function Ceremony({ of, version, open, showing, onSheet }: Props) {
  const clock = useClock();
  const { id: site, may } = useSite();
  const params = { site, id: of.id, version: String(version.version) };
  const [give, { error: notGiven, isLoading: giving }] = useGiveComponentMutation();
  const [again, { error: notShown }] = useComponentSheetMutation();
  const [giveUp, { error: notGivenUp }] = useGiveUpKeyVersionMutation();
  const own = version.components.find(({ mine }) => mine);
  const make = async () => {
    const { data } = await give({ params, body: { how: 'made' } });
    if (data?.sheet) onSheet(data.sheet);
  };
  const printAgain = async () => {
    const { data } = await again(params);
    if (data) onSheet(data);
  };
  return (
    <section
      className="grid gap-2 border-t border-faint pt-3 print:hidden"
      aria-label={`Components of version ${version.version}`}
    >
      <h2 className="print:hidden">
        Version {version.version} is put together from {version.parts} components
      </h2>
      <ol className="grid gap-1 print:hidden">
        {Array.from({ length: version.parts }, (_, i) => i + 1).map((n) => {
          const component = version.components.find(({ part }) => part === n);
          return (
            <li key={n} className="flex flex-wrap gap-x-3">
              <span className="font-bold">component {n}</span>
              {component ? (
                <>
                  <span>{component.mine ? 'yours' : component.custodian}</span>
                  <span>
                    check value <span className="font-mono">{component.checkValue}</span>
                  </span>
                  <span className="text-ink-2">{clock(component.givenAt)}</span>
                </>
              ) : (
                <span className="text-signal">waits for {own || n > 1 ? 'another' : 'a'} custodian</span>
              )}
            </li>
          );
        })}
      </ol>
      <FailureNote failure={notGiven ?? notShown ?? notGivenUp} />
      {may('hold keys') && !showing && (
        <div className="grid gap-3 print:hidden">
          {own ? (
            <p className="flex flex-wrap items-center gap-3">
              Yours is in; another custodian gives the next at their own sign-in.
              <button type="button" className="btn btn-line btn-small" onClick={() => void printAgain()}>
                Print mine again
              </button>
            </p>
          ) : (
            <GiveOne
              open={open}
              giving={giving}
              onMake={() => void make()}
              onType={(hex, check) => give({ params, body: { how: 'typed', hex, check } })}
            />
          )}
          <button
            type="button"
            className="btn btn-line btn-small justify-self-start"
            onClick={() => void giveUp(params)}
          >
            Give this version up
          </button>
        </div>
      )}
    </section>
  );
}

interface GiveProps {
  open: boolean;
  giving: boolean;
  onMake: () => void;
  onType: (hex: string, check: string | null) => unknown;
}

function GiveOne({ open, giving, onMake, onType }: GiveProps) {
  const [typing, setTyping] = useState(false);
  const { register, handleSubmit, getValues, formState } = useForm({
    resolver: checkedAs(givenComponentSchema, ({ hex, check }: { hex: string; check: string }) => ({
      how: 'typed' as const,
      hex,
      check: check.trim() === '' ? null : check,
    })),
    defaultValues: { hex: '', check: '' },
  });
  const { errors } = formState;
  if (!open) return <p>Unlock the key store to give a component.</p>;
  if (!typing)
    return (
      <p className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary" disabled={giving} onClick={onMake}>
          Make mine and print it
        </button>
        <button type="button" className="btn btn-line" onClick={() => setTyping(true)}>
          Type mine from a sheet …
        </button>
      </p>
    );
  const submit = handleSubmit(() => {
    const { hex, check } = getValues();
    return onType(hex, check.trim() === '' ? null : check) as Promise<unknown>;
  });
  return (
    <form onSubmit={submit} className="grid gap-2" aria-label="My component" noValidate>
      <Field label="My component, in hex" error={errors.hex?.message}>
        {(props) => (
          <input
            {...props}
            {...register('hex')}
            className="input w-full font-mono"
            autoComplete="off"
            spellCheck={false}
          />
        )}
      </Field>
      <Field
        label="Its check value, as on the sheet"
        hint="A mistyped digit is then found at once"
        error={errors.check?.message}
      >
        {(props) => (
          <input {...props} {...register('check')} className="input w-32 font-mono" maxLength={6} autoComplete="off" />
        )}
      </Field>
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={giving}>
          Give it
        </button>
        <button type="button" className="btn btn-line" onClick={() => setTyping(false)}>
          Cancel
        </button>
      </div>
    </form>
  );
}
