/** What is kept of a cardholder, as fields of a form. */
import type { Path, UseFormRegister } from 'react-hook-form';
import { Field } from '../../../platform/forms/Field.tsx';

export interface PersonTyped {
  name: string;
  department: string;
  organisation: string;
  kind: string;
  contact: string;
  notes: string;
}
export const NOBODY: PersonTyped = { name: '', department: '', organisation: '', kind: '', contact: '', notes: '' };

export const FIELD_NAMES: Record<keyof PersonTyped, string> = {
  name: 'Name',
  department: 'Department',
  organisation: 'Organisation',
  kind: 'Kind',
  contact: 'Contact',
  notes: 'Notes',
};

const HINTS: Partial<Record<keyof PersonTyped, string>> = {
  kind: 'staff, visitor, contractor …',
  contact: 'telephone, address, place',
};
const MOST: Record<keyof PersonTyped, number> = {
  name: 120,
  department: 120,
  organisation: 120,
  kind: 40,
  contact: 200,
  notes: 2000,
};

interface Props<T extends PersonTyped> {
  register: UseFormRegister<T>;
  errors: Partial<Record<keyof PersonTyped, { message?: string }>>;
}

export function PersonFields<T extends PersonTyped>({ register, errors }: Props<T>) {
  return (
    <div className="grid grid-cols-2 gap-3">
      {(Object.keys(FIELD_NAMES) as (keyof PersonTyped)[]).map((name) => (
        <Field
          key={name}
          label={FIELD_NAMES[name]}
          className={name === 'notes' ? 'col-span-2' : ''}
          hint={HINTS[name]}
          error={errors[name]?.message}
        >
          {(props) =>
            name === 'notes' ? (
              <textarea
                {...props}
                {...register(name as Path<T>)}
                rows={2}
                className="textarea w-full"
                maxLength={MOST[name]}
              />
            ) : (
              <input {...props} {...register(name as Path<T>)} className="input w-full" maxLength={MOST[name]} />
            )
          }
        </Field>
      ))}
    </div>
  );
}
