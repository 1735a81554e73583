import { type Operator, ROLES, type Role } from '@rawbits/api';
import { useState } from 'react';
import {
  useCloseOperatorMutation,
  useResetPasswordMutation,
  useSetRolesMutation,
} from '../../platform/endpoints/operators.ts';
import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export function OperatorRow({ operator }: { operator: Operator }) {
  const { id: site } = useSite();
  const { data: session } = useSessionQuery();
  const [setRoles, roleState] = useSetRolesMutation();
  const [close, closeState] = useCloseOperatorMutation();
  const [resetting, setResetting] = useState(false);
  const own = session?.operator.id === operator.id;
  const target = { site, id: operator.id };
  const administered = session?.sites.filter((s) => s.role === 'administrator') ?? [];
  return (
    <tr>
      <td className="font-bold">{operator.name}</td>
      <td className="font-mono">{operator.login}</td>
      <td>
        <select
          aria-label={`Role of ${operator.name}`}
          className="select w-40"
          value={operator.role}
          disabled={own}
          onChange={(event) => void setRoles({ ...target, roles: { [site]: event.target.value as Role } })}
        >
          {ROLES.map((role) => (
            <option key={role}>{role}</option>
          ))}
        </select>
      </td>
      <td>
        {administered.map((s) => {
          const role = operator.sites.find((o) => o.id === s.id)?.role;
          return (
            <label key={s.id} className="flex items-center gap-2 whitespace-nowrap">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={role !== undefined}
                disabled={own || s.id === site}
                onChange={(event) =>
                  void setRoles({ ...target, roles: { [s.id]: event.target.checked ? operator.role : null } })
                }
              />
              {s.shortName}
              {role && s.id !== site && <span className="text-ink-2">{role}</span>}
            </label>
          );
        })}
      </td>
      <td className={operator.closedAt ? 'text-signal' : ''}>
        {operator.closedAt ? 'closed' : operator.mustChangePassword ? 'first password' : 'open'}
        <FailureNote failure={roleState.error ?? closeState.error} />
      </td>
      <td>
        {!own && (
          <span className="flex flex-wrap gap-2">
            <button
              type="button"
              className="btn btn-line btn-small"
              onClick={() => setResetting(!resetting)}
              aria-expanded={resetting}
            >
              Reset password
            </button>
            <button
              type="button"
              className="btn btn-line btn-small"
              onClick={() => void close({ ...target, open: operator.closedAt !== null })}
            >
              {operator.closedAt ? 'Open again' : 'Close'}
            </button>
          </span>
        )}
        {resetting && <ResetForm target={target} name={operator.name} onDone={() => setResetting(false)} />}
      </td>
    </tr>
  );
}

function ResetForm({
  target,
  name,
  onDone,
}: {
  target: { site: string; id: string };
  name: string;
  onDone: () => void;
}) {
  const [password, setPassword] = useState('');
  const [reset, { error, isLoading }] = useResetPasswordMutation();
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    const done = await reset({ ...target, password });
    if (done.data) onDone();
  };
  return (
    <form onSubmit={(event) => void submit(event)} className="mt-2 flex flex-wrap items-center gap-2">
      <input
        aria-label={`New first password of ${name}`}
        value={password}
        onChange={(event) => setPassword(event.target.value)}
        minLength={10}
        required
        placeholder="new first password"
        className="input w-48 font-mono"
      />
      <button type="submit" className="btn btn-primary btn-small" disabled={isLoading}>
        Reset
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
