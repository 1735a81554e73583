/** What can be done with a case as a whole: renamed, kept as a file, given up. */

import { CASE_SCHEMA } from '@rawbits/api';
import { useState } from 'react';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useRemoveCaseMutation } from '../../platform/endpoints/cases.ts';
import { download } from '../../platform/files/download.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import type { WorkingCase } from './useCase.ts';

export function CaseMenu({ working }: { working: WorkingCase }) {
  const { id: site, may } = useSite();
  const navigate = useNavigateFromHere();
  const [remove] = useRemoveCaseMutation();
  const [name, setName] = useDraft<string>('names of cases', `${site} ${working.shown!.id}`);
  const [sure, setSure] = useState(false);
  const shown = working.shown!;
  const keep = () => {
    const { name: title, specimens, questions } = shown;
    const file = { schema: CASE_SCHEMA, name: title, specimens, questions };
    download(
      `${title.replace(/[^\p{L}\p{N}]+/gu, '-')}.json`,
      `${JSON.stringify(file, null, 2)}\n`,
      'application/json',
    );
  };
  if (name !== undefined)
    return (
      <form
        className="flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          working.change(() => ({ name: name.trim() }));
          setName(undefined);
        }}
      >
        <input
          value={name}
          onChange={(event) => setName(event.target.value)}
          aria-label="Name of the case"
          maxLength={120}
          required
          className="input h-7! w-56"
        />
        <button type="submit" className="btn btn-line btn-small">
          Rename
        </button>
      </form>
    );
  return (
    <span className="flex flex-wrap items-center">
      <button type="button" className="switch-link" onClick={() => navigate(`/${site}/identify`)}>
        all cases
      </button>
      <button type="button" className="switch-link" onClick={keep}>
        export as JSON
      </button>
      {may('identify cards') && (
        <>
          <button type="button" className="switch-link" onClick={() => setName(shown.name)}>
            rename
          </button>
          <button
            type="button"
            className={`switch-link ${sure ? 'font-bold text-signal!' : ''}`}
            onBlur={() => setSure(false)}
            onClick={() => {
              if (!sure) return setSure(true);
              void remove({ site, id: shown.id }).then(() => navigate(`/${site}/identify`));
            }}
          >
            {sure ? 'delete it for good' : 'delete …'}
          </button>
        </>
      )}
    </span>
  );
}
