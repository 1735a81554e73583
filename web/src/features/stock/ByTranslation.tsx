/** The number of a card from what another device shows for it, by a translation of the site. */
import { useState } from 'react';
import { numberBy } from '../../parts/readings/readingsBy.ts';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useTranslationsQuery } from '../../platform/endpoints/translations.ts';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export function ByTranslation({ onNumber }: { onNumber: (number: string) => void }) {
  const { id: site } = useSite();
  const { data: translations = [] } = useTranslationsQuery(site);
  const [chosen, setChosen] = useState('');
  const [text = '', setText] = useDraft<string>('outputs to translate', site);
  if (translations.length === 0) return null;
  const translation = translations.find((t) => t.id === chosen) ?? translations[0]!;
  const number = numberBy(translation, text);
  const take = (shown: string, by = translation) => {
    setText(shown);
    const result = numberBy(by, shown);
    if (result !== undefined) onNumber(result);
  };
  return (
    <>
      <Field
        label="Or what another device shows"
        error={text && number === undefined ? 'Not what this translation takes.' : undefined}
      >
        {(props) => (
          <input
            {...props}
            value={text}
            onChange={(event) => take(event.target.value)}
            autoComplete="off"
            className="input w-full font-mono"
          />
        )}
      </Field>
      <Field label="by the translation">
        {(props) => (
          <select
            {...props}
            value={translation.id}
            onChange={(event) => {
              setChosen(event.target.value);
              take(text, translations.find((t) => t.id === event.target.value)!);
            }}
            className="select w-full"
          >
            {translations.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        )}
      </Field>
    </>
  );
}
