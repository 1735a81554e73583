/** Files of formats: the library out as JSON, CSV of spans or layout lines; a file in, reviewed, all of it or nothing. */

import type { ImportReview } from '@rawbits/api';
import { useState } from 'react';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useImportFormatsMutation, useLazyExportFormatsQuery } from '../../platform/endpoints/formats.ts';
import { download } from '../../platform/files/download.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

const KINDS = [
  ['json', 'JSON'],
  ['csv', 'CSV, one row a span'],
  ['lines', 'layout lines'],
] as const;
type Kind = (typeof KINDS)[number][0];

/** What a file most likely is, by its name and its first characters. */
function kindOf(name: string, text: string): Kind {
  if (/\.json$/i.test(name) || /^\s*[[{]/.test(text)) return 'json';
  return /\.csv$/i.test(name) || /^\uFEFF?"?format"?[,;\t]/.test(text) ? 'csv' : 'lines';
}

export function Files() {
  const { may } = useSite();
  return (
    <div className="flex min-h-0 flex-col gap-4 overflow-auto">
      <Export />
      {may('define formats') && <Import />}
    </div>
  );
}

function Export() {
  const [exportFormats, { error }] = useLazyExportFormatsQuery();
  const take = async (kind: Kind) => {
    const { data } = await exportFormats({ kind });
    if (data) download(data.name, data.text, kind === 'csv' ? 'text/csv' : undefined);
  };
  return (
    <section className="panel p-4" aria-label="Export the library">
      <h2>Export the library</h2>
      <p className="text-ink-2">
        The JSON holds everything, the CSV too; layout lines leave out notes and sources. One format alone: on its page.
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        {KINDS.map(([kind, words]) => (
          <button key={kind} type="button" className="btn btn-line" onClick={() => void take(kind)}>
            {words}
          </button>
        ))}
      </div>
      <FailureNote failure={error} />
    </section>
  );
}

function Import() {
  const { id: site } = useSite();
  const [text = '', setText] = useDraft<string>('files of formats', site);
  const [kind, setKind] = useState<Kind>('lines');
  const [importFormats, { data: review, error, isLoading, reset }] = useImportFormatsMutation();
  const dispatch = useAppDispatch();
  const type = (next: string, name = '') => {
    setText(next);
    if (name || text === '') setKind(kindOf(name, next));
    reset();
  };
  const changes = review ? countOf(review, 'add') + countOf(review, 'change') : 0;
  const save = async () => {
    const saved = await importFormats({ kind, text, save: true });
    if (saved.data?.saved) {
      dispatch(said('The file is in the library'));
      setText('');
    }
  };
  return (
    <section className="panel flex flex-col gap-2 p-4" aria-label="Import a file">
      <h2>Import a file</h2>
      <div className="flex flex-wrap items-center gap-3">
        <input
          type="file"
          aria-label="File of formats"
          accept=".json,.csv,.txt"
          className="file-input"
          onChange={async (event) => {
            const file = event.target.files?.[0];
            if (file) type(await file.text(), file.name);
          }}
        />
        <label className="flex items-center gap-1.5">
          <span className="text-ink-2">as</span>
          <select
            value={kind}
            onChange={(event) => setKind(event.target.value as Kind)}
            className="select"
            aria-label="Kind of file"
          >
            {KINDS.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        </label>
      </div>
      <textarea
        value={text}
        onChange={(event) => type(event.target.value)}
        rows={7}
        spellCheck={false}
        aria-label="The file’s text"
        placeholder={'or paste here, for instance\n26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25'}
        className="textarea w-full font-mono"
      />
      <FailureNote failure={error} />
      <div className="flex flex-wrap items-center gap-2">
        <button
          type="button"
          className={`btn ${review && review.problems.length === 0 ? 'btn-line' : 'btn-primary'}`}
          disabled={text.trim() === '' || isLoading}
          onClick={() => void importFormats({ kind, text, save: false })}
        >
          Review
        </button>
        {review && review.problems.length === 0 && !review.saved && (
          <button
            type="button"
            className="btn btn-primary"
            disabled={isLoading || changes === 0}
            onClick={() => void save()}
          >
            Save {changes} to the library
          </button>
        )}
      </div>
      {review && <Review review={review} />}
    </section>
  );
}

const countOf = (review: ImportReview, does: ImportReview['rows'][number]['does']): number =>
  review.rows.filter((row) => row.does === does).length;

/** What the file would do to the library, or what has to be put right first. */
function Review({ review }: { review: ImportReview }) {
  return (
    <div data-testid="review">
      <p>
        {countOf(review, 'add')} to add, {countOf(review, 'change')} to change, {countOf(review, 'nothing')} the same as
        in the library
        {review.problems.length > 0 &&
          `; ${review.problems.length} ${review.problems.length === 1 ? 'problem' : 'problems'}: nothing is saved until they are put right.`}
      </p>
      <ul>
        {review.problems.slice(0, 100).map((problem) => (
          <li key={`${problem.where?.row} ${problem.message}`} className="text-signal">
            Row {problem.where?.row}
            {problem.where?.field && `, ${problem.where.field}`}
            {problem.where?.column !== undefined && `, column ${problem.where.column}`}: {problem.message}{' '}
            {problem.hint}
          </li>
        ))}
      </ul>
      <table className="grid-table">
        <tbody>
          {review.rows
            .filter((row) => row.does !== 'nothing')
            .slice(0, 200)
            .map((row) => (
              <tr key={row.row}>
                <td>{row.does}</td>
                <td className="font-mono">{row.id}</td>
                <td>{row.name}</td>
                <td className="font-mono break-words">
                  {row.layout}
                  {row.now && <span className="block text-ink-2">now {row.now}</span>}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
    </div>
  );
}
