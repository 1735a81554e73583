/** Who holds the card: one of the cardholders, found by name where there are many. */

import { type ReactNode, useDeferredValue, useEffect, useRef, useState } from 'react';
import type { UseFormRegisterReturn } from 'react-hook-form';
import { draftOf, keepDraft } from '../../platform/drafts/store.ts';
import { useDraftKey } from '../../platform/drafts/useDraft.ts';
import { useCardholdersQuery } from '../../platform/endpoints/cards.ts';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

/** The drafts service remembers what those who were chosen are called. */
const NAMES = 'names of holders';

interface Props {
  choice: UseFormRegisterReturn;
  /** The one that is chosen now; empty for none. */
  value: string | undefined;
  /** Who holds it already: always among those to choose from. */
  holder?: { id: string; name: string } | null;
  nobody: string;
  children?: ReactNode;
}

export function HolderField({ choice, value = '', holder, nobody, children }: Props) {
  const { id: site } = useSite();
  const [search, setSearch] = useState('');
  const { data } = useCardholdersQuery({ site, search: useDeferredValue(search.trim()) || undefined });
  // Whoever was chosen stays to be chosen, whatever is looked for then.
  const seen = useRef(new Map<string, string>());
  const known = seen.current;
  if (holder) known.set(holder.id, holder.name);
  const found = data?.cardholders ?? [];
  for (const { id, name, department } of found) known.set(id, department ? `${name}, ${department}` : name);
  // Of a form that is here again somebody may be chosen who is not among those that are listed.
  const key = useDraftKey(site);
  const remembered = value && !known.has(value) ? draftOf<string>(NAMES, `${key} ${value}`)?.value : undefined;
  if (remembered) known.set(value, remembered);
  const name = known.get(value);
  useEffect(() => {
    if (name) keepDraft(NAMES, `${key} ${value}`, name);
  }, [key, value, name]);
  const chosen = known.has(value) && found.every(({ id }) => id !== value) ? [value] : [];
  const isMany = search !== '' || (data?.next ?? null) !== null;
  return (
    <>
      {isMany && (
        <Field
          label="Find a holder"
          className="col-span-2"
          hint={
            data && found.length === 0
              ? 'Nobody is called that.'
              : data?.next
                ? `The first ${found.length} are listed: type the beginning of a name.`
                : undefined
          }
        >
          {(props) => (
            <input
              {...props}
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              className="input w-full"
              maxLength={120}
            />
          )}
        </Field>
      )}
      <Field label="Held by" className="col-span-2">
        {(props) => (
          <select {...props} {...choice} value={value} className="select w-full">
            <option value="">{nobody}</option>
            {[...chosen, ...found.map(({ id }) => id)].map((id) => (
              <option key={id} value={id}>
                {known.get(id)}
              </option>
            ))}
            {children}
          </select>
        )}
      </Field>
    </>
  );
}
