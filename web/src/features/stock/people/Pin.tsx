/** The PIN of a cardholder: set, or taken away; nothing shows it again. */
import type { OneCardholder } from '@rawbits/api';
import { type FormEvent, useState } from 'react';
import { useCardholderRulesQuery, useSetPinMutation } from '../../../platform/endpoints/people.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';

export function Pin({ person }: { person: OneCardholder }) {
  const { id: site } = useSite();
  const { data: rules } = useCardholderRulesQuery(site);
  const [set, { error, isLoading, reset }] = useSetPinMutation();
  const [pin, setPin] = useState('');
  const dispatch = useAppDispatch();
  const digits = rules?.pinDigits ?? 4;
  const send = async (next: string | null) => {
    if (!('data' in (await set({ site, id: person.id, pin: next })))) return;
    setPin('');
    dispatch(said(next === null ? `${person.name} has no PIN any more` : `The PIN of ${person.name} is set`));
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void send(pin);
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-3 border-t border-faint pt-3" aria-label="PIN">
      <Field label={person.hasPin ? 'Another PIN' : 'PIN'} hint={`${digits} digits, not those on a card of theirs`}>
        {(props) => (
          <input
            {...props}
            value={pin}
            onChange={(event) => {
              reset();
              setPin(event.target.value);
            }}
            type="password"
            inputMode="numeric"
            autoComplete="off"
            maxLength={12}
            className="input w-40 font-mono"
          />
        )}
      </Field>
      <button type="submit" className="btn btn-line mb-6" disabled={isLoading || pin.length !== digits}>
        Set the PIN
      </button>
      {person.hasPin && (
        <button
          type="button"
          className="switch-link mb-6 underline"
          disabled={isLoading}
          onClick={() => void send(null)}
        >
          take the PIN away
        </button>
      )}
      <FailureNote failure={error} />
    </form>
  );
}
