import { useForm } from 'react-hook-form';
import { useAppDispatch } from '../app/store.ts';
import { FailureNote, type Told } from '../shared/FailureNote.tsx';
import { Field } from '../shared/Field.tsx';
import { MiniTape } from '../tape/MiniTape.tsx';
import { sessionApi, useSignInMutation } from './endpoints.ts';

export function SignIn({ failure }: { failure?: Told }) {
  const { register, handleSubmit } = useForm({ defaultValues: { login: '', password: '' } });
  const [signIn, { error, isLoading }] = useSignInMutation();
  const dispatch = useAppDispatch();
  const submit = handleSubmit(async (values) => {
    const session = await signIn(values);
    if (session.data) await dispatch(sessionApi.util.upsertQueryData('session', undefined, session.data));
  });
  return (
    <main className="mx-auto mt-[18vh] w-full max-w-sm p-4">
      <form onSubmit={submit} className="panel grid gap-4 p-6">
        <div>
          <MiniTape bits="0101001001000010" />
          <h1 className="mt-2">Raw Bits</h1>
          <p className="text-ink-2">Sign in to your site.</p>
        </div>
        <Field label="Name">
          {(props) => (
            <input {...props} {...register('login')} autoComplete="username" className="input w-full" required />
          )}
        </Field>
        <Field label="Password">
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
    </main>
  );
}
