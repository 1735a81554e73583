/** A sheet as it is given: pasted, or a file. */
import { Field } from '../../../platform/forms/Field.tsx';

interface Props {
  /** What the sheet is of, and how a row of it looks. */
  label: string;
  example: string;
  text: string;
  onText: (text: string, name?: string) => void;
}

export function Given({ label, example, text, onText }: Props) {
  return (
    <div className="flex flex-wrap items-end gap-4">
      <Field label={`${label}, its columns in any order`} className="min-w-[min(20rem,100%)] flex-1">
        {(props) => (
          <textarea
            {...props}
            value={text}
            onChange={(event) => onText(event.target.value)}
            rows={4}
            spellCheck={false}
            placeholder={example}
            className="textarea w-full font-mono"
          />
        )}
      </Field>
      <Field label="or a file (CSV)">
        {(props) => (
          <input
            {...props}
            type="file"
            accept=".csv,.tsv,.txt,text/csv"
            className="file-input"
            onChange={async ({ target }) => {
              const file = target.files?.[0];
              if (file) onText(await file.text(), file.name);
              target.value = '';
            }}
          />
        )}
      </Field>
    </div>
  );
}
