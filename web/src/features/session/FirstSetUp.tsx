/** The first visit to an empty installation: the first administrator and the first site. */
import { zodResolver } from '@hookform/resolvers/zod';
import { type Session, setupSchema } from '@rawbits/api';
import { useEffect } from 'react';
import { useForm } from 'react-hook-form';
import type { z } from 'zod';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { useSetUpMutation, useSignInMutation } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { ZoneField } from '../../platform/forms/ZoneField.tsx';

type Typed = z.input<typeof setupSchema>;

export function FirstSetUp({ onSignedIn }: { onSignedIn: (session: Session) => Promise<void> | void }) {
  const { register, handleSubmit, formState, getValues, setFocus } = useForm<Typed, unknown, unknown>({
    resolver: zodResolver(setupSchema),
    defaultValues: {
      token: '',
      login: '',
      name: '',
      password: '',
      site: { name: '', shortName: '', timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone },
    },
  });
  const { errors } = formState;
  useEffect(() => setFocus('token'), [setFocus]);
  const [setUp, { error, isLoading }] = useSetUpMutation();
  const [signIn, signingIn] = useSignInMutation();
  const submit = handleSubmit(async () => {
    const typed = getValues();
    const done = await setUp(typed);
    if (!done.data) return;
    const session = await signIn({ login: typed.login, password: typed.password });
    if (session.data) await onSignedIn(session.data);
  });
  return (
    <main className="mx-auto my-[6vh] w-full max-w-2xl p-4">
      <form onSubmit={submit} className="panel grid gap-4 p-6" aria-label="Set Raw Bits up" noValidate>
        <div>
          <MiniTape bits="0101001001000010" />
          <h1 className="mt-2">Set Raw Bits up</h1>
          <p className="text-ink-2">Nobody works here yet: you become the first administrator, of the first site.</p>
        </div>
        <Field
          label="One-time code"
          hint="It was printed where Raw Bits was started, and changes at every start"
          error={errors.token?.message}
        >
          {(props) => <input {...props} {...register('token')} className="input w-full font-mono" autoComplete="off" />}
        </Field>
        <div className="grid grid-cols-2 gap-x-4 gap-y-3 max-sm:grid-cols-1">
          <Field label="Your name" error={errors.name?.message}>
            {(props) => <input {...props} {...register('name')} className="input w-full" autoComplete="name" />}
          </Field>
          <Field label="Your sign-in name" error={errors.login?.message}>
            {(props) => (
              <input {...props} {...register('login')} className="input w-full font-mono" autoComplete="username" />
            )}
          </Field>
          <Field
            label="Your password"
            hint="At least 12 characters: several words that do not belong together"
            error={errors.password?.message}
            className="col-span-2 max-sm:col-span-1"
          >
            {(props) => (
              <input
                {...props}
                {...register('password')}
                type="password"
                className="input w-full"
                autoComplete="new-password"
              />
            )}
          </Field>
          <Field label="Name of the site" error={errors.site?.name?.message}>
            {(props) => <input {...props} {...register('site.name')} className="input w-full" maxLength={120} />}
          </Field>
          <Field label="Short, as it stands in the rail" error={errors.site?.shortName?.message}>
            {(props) => <input {...props} {...register('site.shortName')} className="input w-full" maxLength={24} />}
          </Field>
          <ZoneField error={errors.site?.timeZone?.message} className="col-span-2 max-sm:col-span-1">
            {register('site.timeZone')}
          </ZoneField>
        </div>
        <FailureNote failure={error ?? signingIn.error} />
        <button
          type="submit"
          className="btn btn-primary justify-self-start"
          disabled={isLoading || signingIn.isLoading}
        >
          Set it up
        </button>
      </form>
    </main>
  );
}
