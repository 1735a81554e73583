import type { Operator, Role } from '@rawbits/api';
import { useState } from 'react';
import {
  useCloseOperatorMutation,
  useResetPasswordMutation,
  useSetRolesMutation,
} from '../../platform/endpoints/operators.ts';
import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { RoleChoice } from './RoleChoice.tsx';

export function OperatorRow({ operator }: { operator: Operator }) {
  const { id: site } = useSite();
  const { data: session } = useSessionQuery();
  const [setRoles, roleState] = useSetRolesMutation();
  const [close, closeState] = useCloseOperatorMutation();
  const [resetting, setResetting] = useState(false);
  const own = session?.operator.id === operator.id;
  const target = { site, id: operator.id };
  const administered = session?.sites.filter((s) => s.permissions.includes('manage operators')) ?? [];
  const rolesAt = (id: string): Role[] => operator.sites.find((s) => s.id === id)?.roles ?? [];
  return (
    <tr>
      <td className="font-bold">{operator.name}</td>
      <td className="font-mono">{operator.login}</td>
      <td>
        <RoleChoice
          legend={`Roles of ${operator.name}`}
          hidden
          roles={operator.roles}
          disabled={own || roleState.isLoading}
          keepsOne
          onChange={(roles) => void setRoles({ ...target, roles: { [site]: roles } })}
        />
      </td>
      <td>
        {administered.map((s) => {
          const roles = s.id === site ? operator.roles : rolesAt(s.id);
          return (
            <label key={s.id} className="flex items-center gap-2 whitespace-nowrap">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={roles.length > 0}
                disabled={own}
                onChange={(event) =>
                  void setRoles({ ...target, roles: { [s.id]: event.target.checked ? operator.roles : [] } })
                }
              />
              {s.shortName}
              {s.id !== site && <span className="text-ink-2">{roles.join(', ')}</span>}
            </label>
          );
        })}
      </td>
      <td className={operator.closedAt ? 'text-signal' : ''}>
        {operator.closedAt ? 'disabled' : operator.mustChangePassword ? 'first password' : 'enabled'}
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
              {operator.closedAt ? 'Enable account' : 'Disable account'}
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
        minLength={12}
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
