/** The translations that the site has kept, each to delete and to have back. */
import { translationInWords } from '@rawbits/core/translate';
import { useState } from 'react';
import {
  useKeepTranslationMutation,
  useRemoveTranslationMutation,
  useTranslationsQuery,
} from '../../platform/endpoints/translations.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { UndoNote } from '../../platform/forms/UndoNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export function Kept() {
  const { id: site, may } = useSite();
  const { data: kept = [] } = useTranslationsQuery(site);
  const [remove, removing] = useRemoveTranslationMutation();
  const [keep, keeping] = useKeepTranslationMutation();
  const [deleted, setDeleted] = useState<(typeof kept)[number]>();
  const undo = async ({ name, translation }: (typeof kept)[number]) => {
    const again = await keep({ site, name, translation });
    if (again.data) setDeleted(undefined);
  };
  if (kept.length === 0 && !deleted) return null;
  return (
    <div className="border-t border-base-300 pt-3">
      <h3 className="font-bold">Translations of this site</h3>
      <ul>
        {kept.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 border-t border-faint py-1">
            <strong>{one.name}</strong> <span className="text-ink-2">{translationInWords(one.translation)}</span>
            {may('use formats') && (
              <button
                type="button"
                className="switch-link ml-auto"
                onClick={async () => {
                  if (!(await remove({ site, id: one.id })).error) setDeleted(one);
                }}
              >
                delete
              </button>
            )}
          </li>
        ))}
      </ul>
      <FailureNote failure={removing.error} />
      {deleted && (
        <UndoNote
          text={`The translation ${deleted.name} is deleted.`}
          onUndo={() => void undo(deleted)}
          isLoading={keeping.isLoading}
          failure={keeping.error}
        />
      )}
    </div>
  );
}
