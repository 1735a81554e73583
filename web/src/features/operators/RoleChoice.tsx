import { PERMISSIONS, permissionsOf, ROLES, type Role } from '@rawbits/api';

interface Props {
  legend: string;
  /** Shown to screen readers only, where the column says it already. */
  hidden?: boolean;
  roles: readonly Role[];
  disabled?: boolean;
  error?: string;
  /** The last role cannot be taken: without one the site would be. */
  keepsOne?: boolean;
  onChange: (roles: Role[]) => void;
}

/** What a role allows beyond looking, as one sentence. */
const allows = (role: Role): string =>
  [...permissionsOf([role])].map((permission) => PERMISSIONS[permission]).join('; ');

/** The roles that somebody holds at a site, one or several. */
export function RoleChoice({ legend, hidden, roles, disabled, error, keepsOne, onChange }: Props) {
  return (
    <fieldset disabled={disabled}>
      <legend className={hidden ? 'sr-only' : 'field-label'}>{legend}</legend>
      {ROLES.map((role) => {
        const held = roles.includes(role);
        return (
          <label key={role} className="flex items-center gap-2 whitespace-nowrap" title={allows(role)}>
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={held}
              disabled={keepsOne && held && roles.length === 1}
              onChange={() => onChange(held ? roles.filter((other) => other !== role) : [...roles, role])}
            />
            {role}
          </label>
        );
      })}
      {error && <p className="font-bold text-signal">{error}</p>}
    </fieldset>
  );
}
