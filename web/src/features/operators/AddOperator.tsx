import { ROLES, type Role } from '@rawbits/api';
import { useForm } from 'react-hook-form';
import { useAddOperatorMutation } from '../../platform/endpoints/operators.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export function AddOperator() {
  const { id } = useSite();
  const { register, handleSubmit, reset } = useForm({
    defaultValues: { name: '', login: '', role: 'technician', password: '' },
  });
  const [add, { data, error, isLoading }] = useAddOperatorMutation();
  const submit = handleSubmit(async (values) => {
    const added = await add({ site: id, ...values, role: values.role as Role });
    if (added.data) reset();
  });
  return (
    <form onSubmit={submit} className="panel grid gap-3 p-4" aria-label="Add an operator">
      <h2>Add an operator</h2>
      <Field label="Name">
        {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} required />}
      </Field>
      <Field label="Sign-in name">
        {(props) => (
          <input {...props} {...register('login')} className="input w-full font-mono" autoComplete="off" required />
        )}
      </Field>
      <Field label="Role">
        {(props) => (
          <select {...props} {...register('role')} className="select w-full">
            {ROLES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </select>
        )}
      </Field>
      <Field label="First password" hint="At least 12 characters; has to be changed at the first sign-in">
        {(props) => (
          <input
            {...props}
            {...register('password')}
            minLength={10}
            className="input w-full font-mono"
            autoComplete="off"
            required
          />
        )}
      </Field>
      <FailureNote failure={error} />
      {data && !error && <p role="status">{data.name} can sign in now.</p>}
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Add
      </button>
    </form>
  );
}
