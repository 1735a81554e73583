import { PasswordForm } from './PasswordForm.tsx';

/** Somebody else chose the first password: it has to be changed before anything else. */
export function FirstPassword() {
  return (
    <main className="mx-auto mt-[12vh] w-full max-w-md p-4">
      <section className="panel grid gap-4 p-6">
        <h1>Choose your own password</h1>
        <p>Your first password was given to you by somebody else. Choose one that only you know.</p>
        <PasswordForm />
      </section>
    </main>
  );
}
