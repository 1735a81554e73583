/** The rows of a sheet reviewed: which can be cards and which cannot, and entering those that can. */
import { MOST_SHEET_ROWS, type SheetReview } from '@rawbits/api';
import { useState } from 'react';
import { useEnterSheetMutation, useReviewSheetMutation } from '../../../platform/endpoints/boxes.ts';
import { toCsv } from '../../../platform/files/csv.ts';
import { download } from '../../../platform/files/download.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';
import { counted } from '../../../platform/words/words.ts';
import type { cardsIn } from './cardRows.ts';
import { Refused } from './Refused.tsx';
import { allBad, refusedRows, type Sheet, type Told } from './table.ts';

interface ReviewingProps {
  sheet: Sheet;
  body: { formatId: string; rows: ReturnType<typeof cardsIn>['rows'] };
  /** Rows that cannot even be read. */
  own: readonly Told[];
  name: string;
  isReady: boolean;
  onEntered: () => void;
  /** Only the refused rows are gone on with. */
  onMend: (csv: string) => void;
}

export function ReviewingCards({ sheet, body, own, name, isReady, onEntered, onMend }: ReviewingProps) {
  const { id: site } = useSite();
  const dispatch = useAppDispatch();
  const [ask, { error, isLoading }] = useReviewSheetMutation();
  // A review is of the very rows that were sent: of others, were they as many, it says nothing.
  const [reviewed, setReviewed] = useState<{ rows: object; formatId: string; review: SheetReview }>();
  const review = reviewed?.rows === body.rows && reviewed.formatId === body.formatId ? reviewed.review : undefined;
  const look = async () => {
    const { data } = await ask({ site, sheet: body });
    if (data) setReviewed({ ...body, review: data });
  };
  const [enter, entering] = useEnterSheetMutation();
  const bad = review ? allBad(own, review) : own;
  const refused = () => toCsv(refusedRows(sheet, bad));
  const take = async () => {
    if (!review) return;
    const { data } = await enter({ site, sheet: { ...body, name, good: review.good } });
    if (!data) return;
    dispatch(
      said(
        `${counted(data.cards, 'card')} entered${bad.length > 0 ? `; ${counted(bad.length, 'row')} left to mend` : ''}`,
      ),
    );
    if (bad.length > 0) onMend(refused());
    else onEntered();
  };
  if (!isReady) return <p className="text-signal">Say which column is the number.</p>;
  if (body.rows.length > MOST_SHEET_ROWS)
    return (
      <p className="text-signal">
        That are {counted(body.rows.length, 'row')}; {MOST_SHEET_ROWS.toLocaleString('en')} are entered at once. Cut the
        sheet, or enter boxes by their labels.
      </p>
    );
  return (
    <div className="flex flex-col gap-3" data-testid="sheet-review">
      {review && <CanBe review={review} />}
      {bad.length > 0 && <Refused bad={bad} onFile={() => download('rows to mend.csv', refused(), 'text/csv')} />}
      <FailureNote failure={error ?? entering.error} />
      <div className="flex gap-2">
        {review ? (
          <button
            type="button"
            className="btn btn-primary"
            disabled={entering.isLoading || review.good === 0}
            onClick={() => void take()}
          >
            Enter {counted(review.good, 'card')}
          </button>
        ) : (
          <button
            type="button"
            className="btn btn-primary"
            disabled={isLoading || body.rows.length === 0}
            onClick={() => void look()}
          >
            Review {counted(body.rows.length, 'row')}
          </button>
        )}
      </div>
    </div>
  );
}

function CanBe({ review: { good, held, inStock, newHolders } }: { review: SheetReview }) {
  return (
    <p>
      <strong>{counted(good, 'card')}</strong> can be entered: {held.toLocaleString('en')} held by somebody,{' '}
      {inStock.toLocaleString('en')} in stock.
      {newHolders.count > 0 && (
        <>
          {' '}
          {counted(newHolders.count, 'person', 'people')} will be new cardholders:{' '}
          {newHolders.names.slice(0, 5).join(', ')}
          {newHolders.count > 5 && ' …'}
        </>
      )}
    </p>
  );
}
