/** Tokens for scripts: made, seen once, revoked. */

import { zodResolver } from '@hookform/resolvers/zod';
import { ALL_PERMISSIONS, type ApiToken, NEVER_FOR_TOKENS, newTokenSchema, PERMISSIONS } from '@rawbits/api';
import type { z } from 'zod';
import { ShownOnce } from '../../parts/secret/ShownOnce.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useMakeTokenMutation, useRevokeTokenMutation, useTokensQuery } from '../../platform/endpoints/operators.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { lastDayBefore } from '../../platform/words/siteDays.ts';

type Typed = z.input<typeof newTokenSchema>;
const FOR_TOKENS = ALL_PERMISSIONS.filter(
  (permission) => !(NEVER_FOR_TOKENS as readonly string[]).includes(permission),
) as Typed['permissions'];

export function Tokens() {
  const { id: site } = useSite();
  const { data = [], error } = useTokensQuery(site);
  return (
    <section className="panel grid gap-3 p-4" aria-label="Tokens for scripts">
      <h2>Tokens for scripts</h2>
      <FailureNote failure={error} />
      {data.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th>name</th>
              <th>allows to</th>
              <th>made by</th>
              <th>good until</th>
              <th>last used</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.map((token) => (
              <TokenRow key={token.id} site={site} token={token} />
            ))}
          </tbody>
        </table>
      )}
      <NewToken />
    </section>
  );
}

function TokenRow({ site, token }: { site: string; token: ApiToken }) {
  const clock = useClock();
  const { zone } = useSite();
  const [revoke, { error, isLoading }] = useRevokeTokenMutation();
  return (
    <tr>
      <td className="font-bold">{token.name}</td>
      <td>{token.permissions.join(', ')}</td>
      <td>{token.madeBy}</td>
      <td className={token.revokedAt ? 'text-signal' : ''}>
        {token.revokedAt ? 'revoked' : lastDayBefore(token.endsAt, zone)}
      </td>
      <td className="text-ink-2">{token.usedAt ? clock(token.usedAt) : 'never'}</td>
      <td>
        {!token.revokedAt && (
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={isLoading}
            onClick={() => void revoke({ site, id: token.id })}
          >
            Revoke
          </button>
        )}
        <FailureNote failure={error} />
      </td>
    </tr>
  );
}

function NewToken() {
  const { id: site, may } = useSite();
  const [make, { data, error, isLoading, reset: forget }] = useMakeTokenMutation();
  const [form] = useKeptForm<Typed, unknown, z.output<typeof newTokenSchema>>('tokens', `${site} new`, {
    resolver: zodResolver(newTokenSchema),
    defaultValues: { name: '', permissions: ['see the site'], days: 90 },
  });
  const { register, handleSubmit, reset, formState } = form;
  const { errors } = formState;
  const submit = handleSubmit(async (token) => {
    const made = await make({ site, ...token });
    if (made.data) reset();
  });
  if (data)
    return (
      <ShownOnce name={data.token.name} what="token" text={data.text} onDone={forget}>
        <p className="text-ink-2">
          A script sends it as <code className="font-mono">Authorization: Bearer …</code>
        </p>
      </ShownOnce>
    );
  return (
    <form onSubmit={submit} className="grid gap-3 border-t border-faint pt-3" aria-label="A new token" noValidate>
      <div className="flex flex-wrap gap-3">
        <Field label="Name" error={errors.name?.message} className="min-w-48 flex-1">
          {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
        </Field>
        <Field label="Good for, in days" error={errors.days?.message}>
          {(props) => (
            <input
              {...props}
              {...register('days', { valueAsNumber: true })}
              type="number"
              min={1}
              max={400}
              className="input w-28"
            />
          )}
        </Field>
      </div>
      <fieldset>
        <legend className="field-label">It allows to</legend>
        <div className="grid grid-cols-2 gap-x-4 max-lg:grid-cols-1">
          {FOR_TOKENS.filter(may).map((permission) => (
            <label key={permission} className="flex items-start gap-2">
              <input
                type="checkbox"
                value={permission}
                className="checkbox checkbox-xs mt-1"
                {...register('permissions')}
              />
              <span>{PERMISSIONS[permission]}</span>
            </label>
          ))}
        </div>
        {errors.permissions && <p className="font-bold text-signal">{errors.permissions.message}</p>}
      </fieldset>
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Make a token
      </button>
    </form>
  );
}
