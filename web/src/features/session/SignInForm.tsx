import { zodResolver } from '@hookform/resolvers/zod';
import { type Session, signInSchema } from '@rawbits/api';
import { useEffect } from 'react';
import { useForm } from 'react-hook-form';
import type { z } from 'zod';
import { useSignInMutation } from '../../platform/endpoints/session.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';

interface Props {
  /** Who was signed in before, to be offered as the name. */
  login?: string;
  failure?: Told;
  onSignedIn: (session: Session) => Promise<void> | void;
}

export function SignInForm({ login = '', failure, onSignedIn }: Props) {
  const { register, handleSubmit, formState, getValues, setFocus } = useForm<
    z.input<typeof signInSchema>,
    unknown,
    unknown
  >({
    resolver: zodResolver(signInSchema),
    defaultValues: { login, password: '' },
  });
  const { errors } = formState;
  // The first that is empty.
  useEffect(() => setFocus(login === '' ? 'login' : 'password'), [setFocus, login]);
  const [signIn, { error, isLoading }] = useSignInMutation();
  const submit = handleSubmit(async () => {
    const session = await signIn(getValues());
    if (session.data) await onSignedIn(session.data);
  });
  return (
    <form onSubmit={submit} className="grid gap-4">
      <Field label="Name" error={errors.login?.message}>
        {(props) => (
          <input {...props} {...register('login')} autoComplete="username" className="input w-full" required />
        )}
      </Field>
      <Field label="Password" error={errors.password?.message}>
        {(props) => (
          <input
            {...props}
            {...register('password')}
            type="password"
            autoComplete="current-password"
            className="input w-full"
            required
          />
        )}
      </Field>
      <FailureNote failure={error ?? failure} />
      <button type="submit" className="btn btn-primary" disabled={isLoading}>
        Sign in
      </button>
    </form>
  );
}
