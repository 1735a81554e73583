/** Who holds the card: one of the cardholders, or a new one by name. */

import type { UseFormRegisterReturn } from 'react-hook-form';
import { useCardholdersQuery } from '../../platform/endpoints/cards.ts';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export const NEW_HOLDER = '+';

export function HolderField({
  choice,
  name,
  department,
  isNew,
}: {
  choice: UseFormRegisterReturn;
  name: UseFormRegisterReturn;
  department: UseFormRegisterReturn;
  isNew: boolean;
}) {
  const { id } = useSite();
  const { data = [] } = useCardholdersQuery(id);
  return (
    <>
      <Field label="Held by" className="col-span-2">
        {(props) => (
          <select {...props} {...choice} className="select w-full">
            <option value="">nobody: it stays in stock</option>
            {data.map((holder) => (
              <option key={holder.id} value={holder.id}>
                {holder.name}
                {holder.department && `, ${holder.department}`}
              </option>
            ))}
            <option value={NEW_HOLDER}>somebody new …</option>
          </select>
        )}
      </Field>
      {isNew && (
        <>
          <Field label="Name">
            {(props) => <input {...props} {...name} className="input w-full" maxLength={120} required />}
          </Field>
          <Field label="Department">
            {(props) => <input {...props} {...department} className="input w-full" maxLength={120} />}
          </Field>
        </>
      )}
    </>
  );
}
