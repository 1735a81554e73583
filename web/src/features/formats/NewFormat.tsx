/** A new format: on the tape, or from a settings sheet, masks, or start and length that somebody gave. */

import { failureOf } from '@rawbits/core/failure';
import { layoutFromSheet, printLayoutLine } from '@rawbits/core/format';
import { useEffect, useState } from 'react';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { fromCsv } from '../../platform/files/csv.ts';
import { Field } from '../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { draftDrawn, draftOpened, emptyDraft, NEW } from './editor/drafts.ts';
import { FormatEditor } from './editor/FormatEditor.tsx';
import { useFormatDraftKey } from './editor/useFormatDraftKey.ts';

export function NewFormat({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const key = useFormatDraftKey(NEW);
  const draft = useAppSelector((state) => state.drafts[key]);
  const latest = useAppSelector((state) => state.read.latest?.bits.length);
  const [pasting, setPasting] = useState(false);
  const dispatch = useAppDispatch();
  const navigate = useNavigateFromHere();
  useEffect(() => {
    dispatch(draftOpened({ key, draft: emptyDraft(String(latest ?? 26)) }));
  }, [dispatch, key, latest]);
  if (!draft) return null;
  return (
    <div className="flex min-h-0 min-w-0 flex-col gap-2">
      <div className="flex flex-wrap items-center gap-x-3">
        <h2 className="text-[1.15rem]">New format</h2>
        <button type="button" className="switch-link" aria-pressed={pasting} onClick={() => setPasting(!pasting)}>
          from a settings sheet or masks
        </button>
        <button type="button" className="switch-link" onClick={onDone}>
          back to the library (the draft is kept)
        </button>
      </div>
      {pasting && (
        <FromSheet
          onLayout={(line) => {
            dispatch(draftDrawn({ key, line }));
            setPasting(false);
          }}
        />
      )}
      <FormatEditor
        draftKey={key}
        onDone={(id) => {
          onDone();
          if (id) navigate(`/${site}/formats/${id}`);
        }}
      />
    </div>
  );
}

function FromSheet({ onLayout }: { onLayout: (line: string) => void }) {
  const { id: site } = useSite();
  const [text = '', setText] = useDraft<string>('sheets to make formats of', site);
  const [firstIs, setFirstIs] = useState<0 | 1>(1);
  const [wrong, setWrong] = useState<string>();
  const take = () => {
    try {
      onLayout(printLayoutLine(layoutFromSheet(fromCsv(text), firstIs)));
      setText(undefined);
    } catch (error) {
      const { message, where, hint } = failureOf(error);
      setWrong(`${where?.row ? `Line ${where.row}: ` : ''}${message} ${hint ?? ''}`);
    }
  };
  return (
    <section className="panel flex flex-col gap-2 p-4" aria-label="From a settings sheet">
      <Field label="A sheet as CSV, or typed line by line" error={wrong}>
        {(props) => (
          <textarea
            {...props}
            value={text}
            onChange={(event) => {
              setText(event.target.value);
              setWrong(undefined);
            }}
            rows={6}
            spellCheck={false}
            placeholder={
              'bits 26\nfacility mask 1FE0000\nnumber start 10 length 16\neven 1 covers 2-13\nodd 26 covers 14-25'
            }
            className="textarea w-full font-mono"
          />
        )}
      </Field>
      <div className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-1.5">
          <span className="text-ink-2">The first bit is number</span>
          <select
            value={firstIs}
            onChange={(event) => setFirstIs(Number(event.target.value) as 0 | 1)}
            className="select w-16"
          >
            <option value={1}>1</option>
            <option value={0}>0</option>
          </select>
        </label>
        <button type="button" className="btn btn-primary" disabled={text.trim() === ''} onClick={take}>
          Make the layout
        </button>
      </div>
    </section>
  );
}
