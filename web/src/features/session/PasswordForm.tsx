import { zodResolver } from '@hookform/resolvers/zod';
import { changePasswordSchema } from '@rawbits/api';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { sessionApi, useChangePasswordMutation } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useAppDispatch } from '../../platform/state/hooks.ts';

const typedSchema = changePasswordSchema
  .extend({ again: z.string() })
  .refine(({ next, again }) => next.reveal() === again, { path: ['again'], message: 'The two are not the same.' });

/** Changes one's own password. */
export function PasswordForm({ onDone }: { onDone?: () => void }) {
  const { register, handleSubmit, reset, formState, getValues } = useForm<
    z.input<typeof typedSchema>,
    unknown,
    unknown
  >({ resolver: zodResolver(typedSchema), defaultValues: { current: '', next: '', again: '' } });
  const { errors } = formState;
  const [change, { error, isLoading, isSuccess }] = useChangePasswordMutation();
  const dispatch = useAppDispatch();
  const submit = handleSubmit(async () => {
    const { current, next } = getValues();
    const session = await change({ current, next });
    if (!session.data) return;
    reset();
    await dispatch(sessionApi.util.upsertQueryData('session', undefined, session.data));
    onDone?.();
  });
  return (
    <form onSubmit={submit} className="grid max-w-sm gap-3" noValidate>
      <Field label="Current password" error={errors.current?.message}>
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
      <Field
        label="New password"
        hint="At least 12 characters: several words that do not belong together"
        error={errors.next?.message}
      >
        {(props) => (
          <input
            {...props}
            {...register('next')}
            type="password"
            autoComplete="new-password"
            className="input w-full"
            required
          />
        )}
      </Field>
      <Field label="New password again" error={errors.again?.message}>
        {(props) => (
          <input
            {...props}
            {...register('again')}
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
