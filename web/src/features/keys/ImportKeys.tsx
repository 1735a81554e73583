/** Keys from a file: a JWK Set, as other systems write it. */
import { useState } from 'react';
import { useImportKeysMutation } from '../../platform/endpoints/keys.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { FileReport } from './FileReport.tsx';

export function ImportKeys({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const [take, { data, error, isLoading }] = useImportKeysMutation();
  const [file, setFile] = useState<File>();
  const submit = async () => file && void take({ params: { site }, body: { text: await file.text() } });
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Import keys">
      <h2>Import keys</h2>
      <p className="text-ink-2">
        A JWK Set (RFC 7517): an object with a list of “keys”, each with <code className="font-mono">kty</code> “oct”,
        its bytes as <code className="font-mono">k</code> in base64url, a name as <code className="font-mono">kid</code>{' '}
        and its kind as <code className="font-mono">rawbits_kind</code>. The schema is at{' '}
        <a href="/api/schemas/keys-1.json" className="underline">
          /api/schemas/keys-1.json
        </a>
        . The file holds the keys in the clear: destroy it afterwards. Keys that the store has already are left as they
        are; where one differs nothing is taken in.
      </p>
      <input
        type="file"
        className="file-input w-full"
        aria-label="File with keys"
        accept=".json,.jwks,application/json,application/jwk-set+json"
        onChange={(event) => setFile(event.target.files?.[0])}
      />
      <FailureNote failure={error} />
      {data && !error && <FileReport report={data} done="taken in" />}
      <div className="flex gap-2">
        <button type="button" className="btn btn-primary" disabled={isLoading || !file} onClick={() => void submit()}>
          Take them in
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Close
        </button>
      </div>
    </section>
  );
}
