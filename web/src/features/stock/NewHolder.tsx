/** Somebody who is not among the cardholders yet: a name, and where they belong. */

import type { UseFormRegisterReturn } from 'react-hook-form';
import { Field } from '../../platform/forms/Field.tsx';

/** What is chosen in place of a cardholder for somebody new. */
export const NEW_HOLDER = '+';

export function NewHolder({ name, department }: { name: UseFormRegisterReturn; department: UseFormRegisterReturn }) {
  return (
    <>
      <Field label="Name">
        {(props) => <input {...props} {...name} className="input w-full" maxLength={120} required />}
      </Field>
      <Field label="Department">
        {(props) => <input {...props} {...department} className="input w-full" maxLength={120} />}
      </Field>
    </>
  );
}
