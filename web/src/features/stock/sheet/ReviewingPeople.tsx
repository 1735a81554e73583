/** The rows of a sheet of people reviewed: who is new, what changes of whom, which doors they gain or lose; and entering them. */
import { MOST_SHEET_ROWS, type PeopleReview } from '@rawbits/api';
import { useState } from 'react';
import { AccessEffect, BreakKnowingly } from '../../../parts/access/AccessEffect.tsx';
import { useEnterPeopleMutation, useReviewPeopleMutation } from '../../../platform/endpoints/people.ts';
import { toCsv } from '../../../platform/files/csv.ts';
import { download } from '../../../platform/files/download.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';
import { counted } from '../../../platform/words/words.ts';
import type { peopleIn } from './personRows.ts';
import { Refused } from './Refused.tsx';
import { allBad, refusedRows, type Sheet, type Told } from './table.ts';

interface Props {
  sheet: Sheet;
  rows: ReturnType<typeof peopleIn>['rows'];
  /** Rows that cannot even be read. */
  own: readonly Told[];
  name: string;
  isReady: boolean;
  onEntered: () => void;
  /** Only the refused rows are gone on with. */
  onMend: (csv: string) => void;
}

export function ReviewingPeople({ sheet, rows, own, name, isReady, onEntered, onMend }: Props) {
  const { id: site } = useSite();
  const dispatch = useAppDispatch();
  const [ask, { error, isLoading }] = useReviewPeopleMutation();
  const [enter, entering] = useEnterPeopleMutation();
  // A review is of the very rows that were sent.
  const [reviewed, setReviewed] = useState<{ rows: object; review: PeopleReview }>();
  const [breaking, setBreaking] = useState(false);
  const review = reviewed?.rows === rows ? reviewed.review : undefined;
  const look = async () => {
    entering.reset();
    setBreaking(false);
    const { data } = await ask({ site, sheet: { rows } });
    if (data) setReviewed({ rows, review: data });
  };
  const bad = review ? allBad(own, review) : own;
  const refused = () => toCsv(refusedRows(sheet, bad));
  const take = async ({ seen }: PeopleReview) => {
    const { data } = await enter({ site, sheet: { rows, name, seen, breaking } });
    if (!data) return;
    const left = bad.length > 0 ? `; ${counted(bad.length, 'row')} left to mend` : '';
    dispatch(said(`${counted(data.fresh, 'new cardholder')}, ${data.changed} changed${left}`));
    if (bad.length > 0) onMend(refused());
    else onEntered();
  };
  if (!isReady) return <p className="text-signal">Say which column is the name.</p>;
  if (rows.length > MOST_SHEET_ROWS)
    return (
      <p className="text-signal">
        That are {counted(rows.length, 'row')}; {MOST_SHEET_ROWS.toLocaleString('en')} are entered at once. Cut the
        sheet.
      </p>
    );
  const does = review ? review.fresh.count + review.changed.count : 0;
  const isBroken = (review?.rights.breaks.length ?? 0) > 0;
  return (
    <div className="flex flex-col gap-3" data-testid="people-review">
      {review && <WouldDo review={review} />}
      {bad.length > 0 && <Refused bad={bad} onFile={() => download('rows to mend.csv', refused(), 'text/csv')} />}
      <FailureNote failure={error ?? entering.error} />
      {review && <BreakKnowingly breaks={review.rights.breaks} isBreaking={breaking} onBreaking={setBreaking} />}
      <div className="flex gap-2">
        {review ? (
          <button
            type="button"
            className="btn btn-primary"
            disabled={entering.isLoading || does === 0 || (isBroken && !breaking)}
            onClick={() => void take(review)}
          >
            Enter {counted(does, 'person', 'people')}
          </button>
        ) : null}
        {(!review || entering.error) && (
          <button
            type="button"
            className={review ? 'btn btn-line' : 'btn btn-primary'}
            disabled={isLoading || rows.length === 0}
            onClick={() => void look()}
          >
            {review ? 'Review again' : `Review ${counted(rows.length, 'row')}`}
          </button>
        )}
      </div>
    </div>
  );
}

function WouldDo({ review: { fresh, changed, same, rights } }: { review: PeopleReview }) {
  return (
    <>
      <p>
        <strong>{counted(fresh.count, 'person', 'people')}</strong> new
        {fresh.count > 0 && `: ${fresh.names.slice(0, 5).join(', ')}${fresh.count > 5 ? ' …' : ''}`};{' '}
        <strong>{changed.count.toLocaleString('en')}</strong> changed; {same.toLocaleString('en')} on file just so.
      </p>
      {changed.rows.length > 0 && (
        // A region that scrolls can be scrolled by the keyboard.
        // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
        <section className="max-h-56 overflow-auto" aria-label="What changes" tabIndex={0}>
          <table className="grid-table">
            <thead>
              <tr>
                <th scope="col">Row</th>
                <th scope="col">Who</th>
                <th scope="col">Field</th>
                <th scope="col">On file</th>
                <th scope="col">In the sheet</th>
              </tr>
            </thead>
            <tbody>
              {changed.rows.flatMap(({ row, name, fields }) =>
                fields.map(({ field, was, is }) => (
                  <tr key={`${row} ${field}`}>
                    <td className="font-mono">{row}</td>
                    <td>{name}</td>
                    <td>{field}</td>
                    <td>{was || <span className="text-ink-2">nothing</span>}</td>
                    <td>{is || <span className="text-ink-2">nothing</span>}</td>
                  </tr>
                )),
              )}
            </tbody>
          </table>
          {changed.count > changed.rows.length && (
            <p className="text-ink-2">and {(changed.count - changed.rows.length).toLocaleString('en')} more</p>
          )}
        </section>
      )}
      <AccessEffect review={rights} />
    </>
  );
}
