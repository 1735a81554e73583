/**
 * Something sealed with keys for a partner: a key custodian asks, another agrees, and only the partner opens it, with their private
 * key or a passphrase that they are told.
 */
import { useState } from 'react';
import { Link } from 'react-router';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useAskForKeyMutation, useKeySetsQuery } from '../../platform/endpoints/keys.ts';
import { Choice, Text } from '../../platform/forms/controls.tsx';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

/** What is kept of the form while it is not sent; a passphrase never is. */
interface Typed {
  partner: string;
  how: 'key' | 'passphrase';
  jwk: string;
  reason: string;
}
const NOTHING: Typed = { partner: '', how: 'key', jwk: '', reason: '' };

/** A key by the name that it has in what is sealed, and which of the store it is where that is said. */
export interface SealedKey {
  name: string;
  from?: { set: string; key: string };
  /** Without it the version in use. */
  version?: number;
}

interface Props {
  /** What drafts are about. */
  about: string;
  /** What it is that is sealed: `the part`. */
  what: string;
  summary: string;
  keys: readonly SealedKey[];
  /** As JSON; undefined while there is nothing to seal. */
  content: string | undefined;
  /** What to do where there is nothing. */
  otherwise: string;
}

export function SealForm({ about, what, summary, keys: wanted, content, otherwise }: Props) {
  const { id: site } = useSite();
  const { data: sets = [] } = useKeySetsQuery(site);
  const [typed = NOTHING, setTyped] = useDraft<Typed>('sealings', about);
  const { partner, how, jwk, reason } = typed;
  const set = (change: Partial<Typed>) => setTyped({ ...typed, ...change });
  const [passphrase, setPassphrase] = useState('');
  const [ask, { error, isSuccess, isLoading }] = useAskForKeyMutation();
  const stored = sets.flatMap((one) => one.keys.map((key) => ({ set: one.name, key })));
  const keys = wanted.flatMap(({ name, from, version }) => {
    const found = stored.find(({ set: own, key }) =>
      from ? own === from.set && key.name === from.key : key.name === name,
    );
    const own = version ?? found?.key.current ?? null;
    return found && own !== null ? [{ keyId: found.key.id, version: own, as: name }] : [];
  });
  const key = jwkFrom(jwk);
  const recipient = how === 'key' ? key : passphrase.length >= 12 ? { passphrase } : undefined;
  const isReady = content !== undefined && keys.length > 0 && partner.trim() !== '' && recipient !== undefined;
  const submit = async () => {
    const body = { kind: 'seal', partner, recipient: recipient as never, keys, content, reason };
    const asked = await ask({ params: { site }, body: body as never });
    if (!asked.error) setTyped(undefined);
  };
  if (isSuccess)
    return (
      <p role="status">
        Another custodian has to agree, on the screen{' '}
        <Link className="underline" to={`/${site}/keys`}>
          Keys
        </Link>
        ; then you take the sealed file there.
      </p>
    );
  return (
    <details>
      <summary className="cursor-pointer">{summary}</summary>
      <div className="grid max-w-xl gap-2 py-2">
        <Text label="Partner" value={partner} onChange={(text) => set({ partner: text })} />
        <Choice
          label="What opens it"
          value={how}
          onChange={(way) => set({ how: way })}
          options={[
            ['key', 'their private key: they send you the public one'],
            ['passphrase', 'a passphrase that you tell them'],
          ]}
        />
        {how === 'key' ? (
          <label className="grid gap-1">
            <span className="field-label">Their public key, as a JWK (RFC 7517)</span>
            <textarea
              className="textarea h-20 w-full font-mono text-[0.9rem]"
              value={jwk}
              spellCheck={false}
              onChange={(event) => set({ jwk: event.target.value })}
            />
          </label>
        ) : (
          <Field
            label="Passphrase"
            hint="12 characters or more; tell it by another way than the file goes. Whoever has both has the keys."
          >
            {(props) => (
              <input
                {...props}
                type="password"
                autoComplete="new-password"
                className="input w-full font-mono"
                value={passphrase}
                onChange={(event) => setPassphrase(event.target.value)}
              />
            )}
          </Field>
        )}
        {how === 'key' && jwk.trim() !== '' && key === undefined && <p className="text-signal">This is no JSON.</p>}
        <Text label="Why" value={reason} onChange={(text) => set({ reason: text })} hint="stands in the trail" />
        <p className="text-[0.9rem] text-ink-2">
          {content === undefined
            ? otherwise
            : `${keys.length} of ${wanted.length} keys of ${what} are in the key store.`}
        </p>
        <FailureNote failure={error} />
        <button
          type="button"
          className="btn btn-primary btn-small justify-self-start"
          disabled={!isReady || isLoading}
          onClick={() => void submit()}
        >
          Ask a second custodian
        </button>
      </div>
    </details>
  );
}

function jwkFrom(text: string): object | undefined {
  try {
    const jwk: unknown = JSON.parse(text);
    return typeof jwk === 'object' && jwk !== null ? jwk : undefined;
  } catch {
    return undefined;
  }
}
