/** Backups: made by two custodians, downloaded, rehearsed and restored. */
import { newPassphraseSchema, openBackupSchema, reasonSchema } from '@rawbits/api';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import {
  useAskForKeyMutation,
  useKeyBackupFileMutation,
  useKeyBackupsQuery,
  useRehearseBackupMutation,
  useRestoreBackupMutation,
} from '../../platform/endpoints/keys.ts';
import { download } from '../../platform/files/download.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { FileReport } from './FileReport.tsx';
import { PassphraseField } from './store/PassphraseField.tsx';

export function Backups({ open }: { open: boolean }) {
  return (
    <div className="grid min-h-0 flex-1 grid-cols-2 content-start items-start gap-3 overflow-auto max-md:grid-cols-1">
      <div className="grid gap-3">
        <Made />
        <MakeBackup open={open} />
      </div>
      <Rehearse open={open} />
    </div>
  );
}

function Made() {
  const clock = useClock();
  const { id: site } = useSite();
  const { data = [], error } = useKeyBackupsQuery(site);
  const [fetchFile, { error: notFetched }] = useKeyBackupFileMutation();
  const save = async (id: string) => {
    const { data: file } = await fetchFile({ site, id });
    if (file) download(file.name, file.jwe, 'application/jose');
  };
  return (
    <section className="panel grid gap-2 p-4" aria-label="Backups made">
      <h2>Backups</h2>
      {data.length === 0 && <p className="text-ink-2">None yet. Without one, a lost passphrase is lost keys.</p>}
      {data.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th>made</th>
              <th>keys</th>
              <th>by</th>
              <th>rehearsed</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.map((backup) => (
              <tr key={backup.id}>
                <td>{clock(backup.madeAt)}</td>
                <td>{backup.keys}</td>
                <td>
                  {backup.firstBy}, then {backup.secondBy}
                </td>
                <td className={backup.rehearsedAt ? '' : 'text-signal'}>
                  {backup.rehearsedAt ? `${backup.rehearsedBy}, ${clock(backup.rehearsedAt)}` : 'never'}
                </td>
                <td>
                  <button type="button" className="btn btn-line btn-small" onClick={() => void save(backup.id)}>
                    Download
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <FailureNote failure={error ?? notFetched} />
    </section>
  );
}

const askSchema = z.strictObject({ reason: reasonSchema, part: newPassphraseSchema });

const Locked = () => <p className="text-signal">Unlock the key store first: what is typed here stays.</p>;

function MakeBackup({ open }: { open: boolean }) {
  const { id: site } = useSite();
  const [ask, { data, error, isLoading }] = useAskForKeyMutation();
  const { register, handleSubmit, getValues, reset, formState } = useForm({
    resolver: checkedAs(askSchema, (typed: { reason: string; part: string }) => typed),
    defaultValues: { reason: '', part: '' },
  });
  const { errors } = formState;
  const submit = handleSubmit(async () => {
    const asked = await ask({ params: { site }, body: { kind: 'backup', ...getValues() } });
    if (asked.data) reset();
  });
  return (
    <form onSubmit={submit} className="panel grid gap-3 p-4" aria-label="Make a backup" noValidate>
      <h2>Make a backup</h2>
      <p className="text-ink-2">
        Every key of this site in one encrypted file. Its passphrase has two parts: you give the first now, another
        custodian the second at their own sign-in, and only both open it. Write yours down and keep it apart from the
        file.
      </p>
      <PassphraseField
        label="First part of its passphrase"
        hint="At least 12 characters"
        error={errors.part?.message}
        fresh
      >
        {register('part')}
      </PassphraseField>
      <Field label="Why" error={errors.reason?.message}>
        {(props) => <input {...props} {...register('reason')} className="input w-full" maxLength={400} />}
      </Field>
      <FailureNote failure={error} />
      {data && !error && <p role="status">It waits for another custodian, who gives the second part on this screen.</p>}
      {!open && <Locked />}
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading || !open}>
        Ask a second custodian
      </button>
    </form>
  );
}

function Rehearse({ open }: { open: boolean }) {
  const { id: site } = useSite();
  const [rehearse, rehearsal] = useRehearseBackupMutation();
  const [restore, restored] = useRestoreBackupMutation();
  const [last, setLast] = useState<'rehearse' | 'restore'>('rehearse');
  const { register, handleSubmit, getValues, setValue, formState } = useForm({
    resolver: checkedAs(openBackupSchema, (typed: { jwe: string; first: string; second: string }) => typed),
    defaultValues: { jwe: '', first: '', second: '' },
  });
  const { errors } = formState;
  const run = (what: 'rehearse' | 'restore') =>
    handleSubmit(async () => {
      setLast(what);
      await (what === 'rehearse' ? rehearse : restore)({ params: { site }, body: getValues() });
    })();
  const { data, error } = last === 'rehearse' ? rehearsal : restored;
  const busy = rehearsal.isLoading || restored.isLoading;
  const hasNew = rehearsal.data?.keys.some(({ standing }) => standing === 'new') ?? false;
  const choose = async (file: File | undefined) => setValue('jwe', file ? (await file.text()).trim() : '');
  return (
    <section className="panel grid gap-3 p-4" aria-label="Rehearse a restore">
      <h2>Rehearse a restore</h2>
      <p className="text-ink-2">
        A backup that was never opened is a hope. The rehearsal opens the file, goes through every key, puts each into
        an envelope and takes it out again, and compares it with the one here. It changes nothing.
      </p>
      <Field label="The file" error={errors.jwe?.message}>
        {(props) => (
          <input
            {...props}
            type="file"
            className="file-input w-full"
            accept=".jwe,application/jose"
            onChange={(event) => void choose(event.target.files?.[0])}
          />
        )}
      </Field>
      <PassphraseField label="First part of its passphrase" error={errors.first?.message}>
        {register('first')}
      </PassphraseField>
      <PassphraseField label="Second part" error={errors.second?.message}>
        {register('second')}
      </PassphraseField>
      <FailureNote failure={error} />
      {data && !error && <FileReport report={data} done={last === 'rehearse' ? 'would be taken in' : 'taken in'} />}
      {!open && <Locked />}
      <div className="flex gap-2">
        <button type="button" className="btn btn-primary" disabled={busy || !open} onClick={() => void run('rehearse')}>
          {busy ? 'Opening …' : 'Rehearse'}
        </button>
        {hasNew && (
          <button type="button" className="btn btn-line" disabled={busy || !open} onClick={() => void run('restore')}>
            Restore what is not here
          </button>
        )}
      </div>
    </section>
  );
}
