/** The whole site as a file, and a site from such a file. */
import { zodResolver } from '@hookform/resolvers/zod';
import { addressOf, finishImportSchema, type ImportedSite, type Site, transferApi } from '@rawbits/api';
import { failureOf } from '@rawbits/core/failure';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { Link } from 'react-router';
import type { z } from 'zod';
import {
  useBeginImportMutation,
  useFinishImportMutation,
  useGiveUpImportMutation,
  useSendPieceMutation,
} from '../../platform/endpoints/transfer.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { counted } from '../../platform/words/words.ts';
import { headerOf, sendFile } from './siteFile.ts';

export function ExportSite({ site }: { site: Site }) {
  const [history, setHistory] = useState(true);
  const query = { history: history ? ('true' as const) : ('false' as const) };
  return (
    <section className="panel grid gap-2 p-4" aria-label="Export the site">
      <h2>Export the site</h2>
      <p>
        Formats, facility codes, cards and their holders, doors, cases and translations, to be kept or taken into
        another installation. Operators, passwords, keys and device hosts are not in it.
      </p>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={history}
          onChange={(event) => setHistory(event.target.checked)}
        />
        with reads, events and the record
      </label>
      <a
        href={`/api${addressOf(transferApi.exportSite, { site: site.id }, query)}`}
        download
        className="btn btn-line justify-self-start"
      >
        Export {site.shortName}
      </a>
    </section>
  );
}

/** The import as a function of a file and the names to be; each step throws its failure. */
function useSending() {
  const [begin] = useBeginImportMutation();
  const [send] = useSendPieceMutation();
  const [finish] = useFinishImportMutation();
  const [giveUp] = useGiveUpImportMutation();
  return (file: File, names: z.output<typeof finishImportSchema>, told: (bytes: number) => void) =>
    sendFile(
      file,
      {
        begin: () => begin().unwrap(),
        send: (id, { piece, lines }) => send({ id, piece, lines }).unwrap(),
        finish: (id) => finish({ id, ...names }).unwrap(),
        giveUp: (id) => giveUp({ id }).unwrap(),
      },
      told,
    );
}

export function ImportSite() {
  const [file, setFile] = useState<File>();
  const [sent, setSent] = useState<number>();
  const [failure, setFailure] = useState<Told>();
  const [made, setMade] = useState<ImportedSite & { name: string }>();
  const { register, handleSubmit, reset, formState } = useForm({
    resolver: zodResolver(finishImportSchema),
    defaultValues: { name: '', shortName: '' },
  });
  const { errors } = formState;
  const sendAll = useSending();
  const choose = async (chosen: File | undefined) => {
    setFile(chosen);
    setFailure(undefined);
    setMade(undefined);
    const header = chosen && (await headerOf(chosen));
    if (header) reset(header);
  };
  const submit = handleSubmit(async (names) => {
    setFailure(undefined);
    setSent(0);
    try {
      setMade({ ...(await sendAll(file!, names, setSent)), name: names.name });
      setFile(undefined);
    } catch (error) {
      // What the server refused has its words already.
      setFailure(error && typeof error === 'object' && 'message' in error ? (error as Told) : failureOf(error));
    } finally {
      setSent(undefined);
    }
  });
  return (
    <form onSubmit={submit} className="panel grid gap-3 p-4" aria-label="Import a site" noValidate>
      <h2>Import a site</h2>
      <Field label="File" hint="As Raw Bits exported it; nothing is seen of it until all of it has been taken in">
        {(props) => (
          <input
            {...props}
            type="file"
            accept=".jsonl"
            className="file-input w-full"
            disabled={sent !== undefined}
            onChange={(event) => void choose(event.target.files?.[0])}
          />
        )}
      </Field>
      {file && (
        <>
          <Field label="Name" error={errors.name?.message}>
            {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
          </Field>
          <Field label="Short, as it stands in the rail" error={errors.shortName?.message}>
            {(props) => <input {...props} {...register('shortName')} className="input w-full" maxLength={24} />}
          </Field>
        </>
      )}
      {file && sent !== undefined && (
        <p role="status" className="flex items-center gap-3">
          <progress
            className="progress progress-primary"
            value={sent}
            max={Math.max(file.size, 1)}
            aria-label="Import"
          />
          <span className="whitespace-nowrap">{Math.floor((100 * sent) / Math.max(file.size, 1))} %</span>
        </p>
      )}
      <FailureNote failure={failure} />
      {made && <Made {...made} />}
      <button
        type="submit"
        className="btn btn-line justify-self-start"
        disabled={file === undefined || sent !== undefined}
      >
        Take it in
      </button>
    </form>
  );
}

function Made({ site, name, counts, renamed }: ImportedSite & { name: string }) {
  return (
    <div role="status" className="grid gap-1">
      <p>
        <Link to={`/${site}/stock`} className="underline">
          {name}
        </Link>{' '}
        is here, with {counted(counts.card ?? 0, 'card')} and {counted(counts.controller ?? 0, 'controller')}. Its
        controllers hold nothing yet: load them once their device host has dialled in.
      </p>
      {renamed.length > 0 && (
        <p>
          The library here knows other formats under these names, so they were added as{' '}
          {renamed.map(({ from, to }) => `${to} (there ${from})`).join(', ')}.
        </p>
      )}
    </div>
  );
}
