import { zodResolver } from '@hookform/resolvers/zod';
import { newOperatorSchema } from '@rawbits/api';
import type { z } from 'zod';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useAddOperatorMutation } from '../../platform/endpoints/operators.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { RoleChoice } from './RoleChoice.tsx';

type Typed = z.input<typeof newOperatorSchema>;

export function AddOperator() {
  const { id } = useSite();
  const [form, draft] = useKeptForm<Typed, unknown, unknown>('operators', `${id} new`, {
    secret: ['password'],
    resolver: zodResolver(newOperatorSchema),
    defaultValues: { name: '', login: '', roles: ['technician'], password: '' },
  });
  const { register, handleSubmit, reset, watch, setValue, formState, getValues } = form;
  const { errors } = formState;
  const [add, { data, error, isLoading }] = useAddOperatorMutation();
  const submit = handleSubmit(async () => {
    // What was typed, not what the schema makes of it: a checked password is a secret that does not print itself.
    const added = await add({ site: id, ...getValues() });
    if (!added.data) return;
    draft.forget();
    reset();
  });
  return (
    <form onSubmit={submit} className="panel grid gap-3 p-4" aria-label="Add an operator" noValidate>
      <h2>Add an operator</h2>
      <DraftNote draft={draft} />
      <Field label="Name" error={errors.name?.message}>
        {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
      </Field>
      <Field label="Sign-in name" error={errors.login?.message}>
        {(props) => <input {...props} {...register('login')} className="input w-full font-mono" autoComplete="off" />}
      </Field>
      <RoleChoice
        legend="Roles here"
        roles={watch('roles')}
        onChange={(roles) => setValue('roles', roles, { shouldValidate: formState.isSubmitted })}
        error={errors.roles?.message}
      />
      <Field
        label="First password"
        hint="At least 12 characters; has to be changed at the first sign-in"
        error={errors.password?.message}
      >
        {(props) => (
          <input {...props} {...register('password')} className="input w-full font-mono" autoComplete="off" />
        )}
      </Field>
      <FailureNote failure={error} />
      {data && !error && (
        <p role="status">
          {'awaiting' in data
            ? 'It waits for a second person: another administrator or a key custodian agrees on this page.'
            : `${data.name} can sign in now.`}
        </p>
      )}
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Add
      </button>
    </form>
  );
}
