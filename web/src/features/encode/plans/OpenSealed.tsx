/** What was sealed for us is opened by its passphrase: its keys go into the key store, and its plan can be taken in. */
import { useState } from 'react';
import { useOpenSealedMutation } from '../../../platform/endpoints/keys.ts';
import { Text } from '../../../platform/forms/controls.tsx';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

/** A JWE in its compact form (RFC 7516 §7.1): five parts, the first of them a JSON object in base64url. */
export const isSealed = (text: string): boolean => /^eyJ[\w-]*(\.[\w-]*){4}$/.test(text.trim());

export function OpenSealed({ jwe, onOpen }: { jwe: string; onOpen: (plan: unknown) => void }) {
  const { id: site } = useSite();
  const [passphrase, setPassphrase] = useState('');
  const [set, setSet] = useState('');
  const [open, { error, isLoading }] = useOpenSealedMutation();
  const submit = async () => {
    const opened = await open({ params: { site }, body: { jwe, passphrase, set } });
    if (opened.data) onOpen(opened.data.plan);
  };
  return (
    <form
      className="grid max-w-xl gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Field label="Passphrase" hint="as they told you">
        {(props) => (
          <input
            {...props}
            type="password"
            autoComplete="off"
            className="input w-full font-mono"
            value={passphrase}
            onChange={(event) => setPassphrase(event.target.value)}
          />
        )}
      </Field>
      <Text label="Its keys go into the set" value={set} onChange={setSet} hint="a new one, or one that is there" />
      <FailureNote failure={error} />
      <button
        type="submit"
        className="btn btn-line justify-self-start"
        disabled={isLoading || passphrase === '' || set.trim() === ''}
      >
        Open it
      </button>
    </form>
  );
}
