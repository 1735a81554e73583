/** What law asks of personal data: all of it as a file, and its erasure. */
import type { OneCardholder } from '@rawbits/api';
import { useState } from 'react';
import { useErasePersonMutation, useLazyExportPersonQuery } from '../../../platform/endpoints/people.ts';
import { download } from '../../../platform/files/download.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useNavigateFromHere } from '../../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../../platform/site/useSite.ts';

export function PersonalData({ person }: { person: OneCardholder }) {
  const { id: site, may } = useSite();
  const navigate = useNavigateFromHere();
  const [exported, exporting] = useLazyExportPersonQuery();
  const [erase, erasing] = useErasePersonMutation();
  const [isSure, setSure] = useState(false);
  return (
    <details className="border-t border-faint pt-3">
      <summary className="cursor-pointer font-bold">Personal data</summary>
      <div className="mt-2 flex flex-col gap-3">
        {may('see photographs') && (
          <p className="flex flex-wrap items-center gap-3">
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={exporting.isFetching}
              onClick={async () => {
                const { data } = await exported({ site, id: person.id });
                if (data) download(`${person.name}.json`, JSON.stringify(data, null, 2), 'application/json');
              }}
            >
              Export all that is kept
            </button>
            <span className="text-ink-2">for whoever asks what is known of them</span>
          </p>
        )}
        <p>
          Erasing takes away what is kept of {person.name}, the photograph and the PIN, and the name where it stands in
          what happened at doors. Entries of the record stay as they were sealed. Cards that they still hold have to be
          taken back first.
        </p>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={isSure}
            onChange={(event) => setSure(event.target.checked)}
          />
          erase {person.name}; there is no way back
        </label>
        <div>
          <button
            type="button"
            className="btn btn-line"
            disabled={!isSure || erasing.isLoading}
            onClick={async () => {
              if ('data' in (await erase({ site, id: person.id, revision: person.revision })))
                navigate(`/${site}/stock/people`);
            }}
          >
            Erase
          </button>
        </div>
        <FailureNote failure={exporting.error ?? erasing.error} />
      </div>
    </details>
  );
}
