import { useForm } from 'react-hook-form';
import { sessionApi, useChangePasswordMutation } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useAppDispatch } from '../../platform/state/hooks.ts';

/** Changes one's own password. */
export function PasswordForm({ onDone }: { onDone?: () => void }) {
  const { register, handleSubmit, reset, formState, getValues } = useForm({
    defaultValues: { current: '', next: '', again: '' },
  });
  const [change, { error, isLoading, isSuccess }] = useChangePasswordMutation();
  const dispatch = useAppDispatch();
  const submit = handleSubmit(async ({ current, next }) => {
    const session = await change({ current, next });
    if (!session.data) return;
    reset();
    await dispatch(sessionApi.util.upsertQueryData('session', undefined, session.data));
    onDone?.();
  });
  return (
    <form onSubmit={submit} className="grid max-w-sm gap-3">
      <Field label="Current password">
        {(props) => (
          <input
            {...props}
            {...register('current')}
            type="password"
            autoComplete="current-password"
            className="input w-full"
            required
          />
        )}
      </Field>
      <Field label="New password" hint="At least 12 characters: several words that do not belong together">
        {(props) => (
          <input
            {...props}
            {...register('next')}
            type="password"
            minLength={12}
            autoComplete="new-password"
            className="input w-full"
            required
          />
        )}
      </Field>
      <Field label="New password again" error={formState.errors.again?.message}>
        {(props) => (
          <input
            {...props}
            {...register('again', { validate: (again) => again === getValues('next') || 'The two are not the same.' })}
            type="password"
            autoComplete="new-password"
            className="input w-full"
            required
          />
        )}
      </Field>
      <FailureNote failure={error} />
      {isSuccess && <p role="status">The password was changed; all other sessions have ended.</p>}
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Change password
      </button>
    </form>
  );
}
