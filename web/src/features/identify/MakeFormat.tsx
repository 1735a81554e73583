/** Makes the format of a case for the site: the layout chosen with its standing, and its facility code. */
import { parseLayoutLine, structuralId } from '@rawbits/core/format';
import type { GroupFinding } from '@rawbits/core/identify';
import { translationInWords } from '@rawbits/core/translate';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { useMakeFormatMutation } from '../../platform/endpoints/cases.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { shownAs } from './columns.ts';
import { translationOf } from './translationOf.ts';
import type { WorkingCase } from './useCase.ts';

export function MakeFormat({
  working,
  finding,
  site,
  onDone,
}: {
  working: WorkingCase;
  finding: GroupFinding;
  site: string;
  onDone: () => void;
}) {
  const shown = working.shown!;
  const [index, setIndex] = useState(0);
  const layout = finding.layouts[index]!;
  const [id, setId] = useState('');
  const [name, setName] = useState(shown.name);
  const [codeName, setCodeName] = useState(shown.name);
  const [make, { error, isLoading }] = useMakeFormatMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const translation = useMemo(() => translationOf(layout.layout, shown.specimens), [layout.layout, shown.specimens]);
  const [translationName, setTranslationName] = useState('');
  const suggested = structuralId(parseLayoutLine(layout.layout));
  const standing = finding.bits.every((bit) => shownAs(bit) === 'proven') ? 'proven' : 'presumed';
  const submit = async () => {
    const made = await make({
      site,
      id: shown.id,
      result: {
        revision: await working.revision(),
        standing,
        format: layout.format ? { id: layout.format } : { id: id || suggested, name, layout: layout.layout },
        facility:
          layout.facility !== undefined && codeName.trim() ? { code: layout.facility, name: codeName.trim() } : null,
        translation: translation && translationName.trim() ? { name: translationName.trim(), translation } : null,
      },
    });
    if (!made.data) return;
    dispatch(said(`The format is in use at this site, proven on ${made.data.evidence} cards; accept it at a door`));
    void navigate(`/${site}/formats/${made.data.formatId}`);
  };
  return (
    <form
      className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4"
      aria-label="Make the format"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <h2>Make the format</h2>
      {finding.layouts.length > 1 && (
        <p className="text-signal">
          These cards do not part the layouts below. Choosing one is a presumption; the card named under “Read this one
          next” would settle it.
        </p>
      )}
      {finding.layouts.map((l, i) => (
        <label
          key={l.layout}
          className={`flex cursor-pointer items-baseline gap-2 p-1 ${i === index ? 'bg-chosen' : ''}`}
        >
          <input
            type="radio"
            name="made-layout"
            className="radio radio-xs"
            checked={i === index}
            onChange={() => setIndex(i)}
          />
          <code className="font-mono break-words">{l.layout}</code>
          {l.format && <span className="text-ink-2">{l.format} of the library</span>}
        </label>
      ))}
      <div className="grid grid-cols-3 gap-3 max-md:grid-cols-1">
        {!layout.format && (
          <>
            <Field label="Name of the format">
              {(props) => (
                <input
                  {...props}
                  value={name}
                  onChange={(e) => setName(e.target.value)}
                  required
                  maxLength={120}
                  className="input w-full"
                />
              )}
            </Field>
            <Field label="Id">
              {(props) => (
                <input
                  {...props}
                  value={id}
                  placeholder={suggested}
                  onChange={(e) => setId(e.target.value)}
                  maxLength={40}
                  className="input w-full font-mono"
                />
              )}
            </Field>
          </>
        )}
        {layout.facility !== undefined && (
          <Field label={`Name of facility code ${layout.facility}`} hint="Empty: it gets no name">
            {(props) => (
              <input
                {...props}
                value={codeName}
                onChange={(e) => setCodeName(e.target.value)}
                maxLength={120}
                className="input w-full"
              />
            )}
          </Field>
        )}
        {translation && (
          <Field label="Keep the translation from print to number as" hint={translationInWords(translation)}>
            {(props) => (
              <input
                {...props}
                value={translationName}
                onChange={(e) => setTranslationName(e.target.value)}
                placeholder="empty: it is not kept"
                maxLength={120}
                className="input w-full"
              />
            )}
          </Field>
        )}
      </div>
      <p className="text-ink-2">
        {standing === 'proven'
          ? 'Every bit’s formula is proven by these cards; what each bit is for stays a presumption.'
          : 'The layout is presumed: it agrees with every card. The case stays as its evidence.'}
      </p>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Make it, and use it at this site
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Not now
        </button>
      </div>
    </form>
  );
}
