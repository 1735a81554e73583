/** What to order: the codes of which few cards are left in stock, and the numbers to ask the supplier for. */
import type { ToOrder as Order } from '@rawbits/api';
import { useDeferredValue } from 'react';
import { Link } from 'react-router';
import { useCodes } from '../../../parts/facility/codeNames.ts';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useToOrderQuery } from '../../../platform/endpoints/boxes.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { toCsv } from '../../../platform/files/csv.ts';
import { download } from '../../../platform/files/download.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import type { Line } from './NumberMap.tsx';

interface Props {
  /** Enters a box of a run; undefined where that is not allowed. */
  onRun: ((line: Line, run: { from: string; to: string }) => void) | undefined;
}

const within = (text: string, most: number): number | undefined =>
  /^\d{1,6}$/.test(text) && Number(text) >= 1 && Number(text) <= most ? Number(text) : undefined;

export function ToOrder({ onRun }: Props) {
  const { id: site } = useSite();
  const [fewer = '20', setFewer] = useDraft<string>('order below', site);
  const [count = '', setCount] = useDraft<string>('numbers to order', site);
  const asked = { fewer: within(fewer, 10_000), count: within(count, 100_000) };
  const isWrong = asked.fewer === undefined || (count !== '' && asked.count === undefined);
  const { data: orders, error } = useToOrderQuery(useDeferredValue({ site, ...asked }), { skip: isWrong });
  const { data: formats = [] } = useFormatsQuery(site);
  const nameOf = (formatId: string): string =>
    formats.find(({ format }) => format.id === formatId)?.format.name ?? formatId;
  const codeOf = useCodes();
  const keep = (list: readonly Order[]) =>
    download(
      'cards to order.csv',
      toCsv([
        ['format', 'layout', 'facility code', 'first number', 'last number', 'how many', 'left in stock', 'last box'],
        ...list.map(({ formatId, facility, run, inStock, newest }) => [
          ...[nameOf(formatId), formats.find(({ format }) => format.id === formatId)?.layout ?? '', facility ?? ''],
          ...(run ? [run.from, run.to, String(BigInt(run.to) - BigInt(run.from) + 1n)] : ['', '', '']),
          ...[String(inStock), newest.name],
        ]),
      ]),
      'text/csv',
    );
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="What to order">
      <div className="flex items-start gap-3">
        <h2 className="grow text-[1.15rem]">What to order</h2>
        <Link to={`/${site}/stock/boxes`} className="btn btn-line">
          Close
        </Link>
      </div>
      <p className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2">
          Codes with fewer than
          <input
            value={fewer}
            onChange={(event) => setFewer(event.target.value)}
            inputMode="numeric"
            className="input w-20 font-mono"
          />
        </label>
        <label className="flex items-center gap-2">
          left; order
          <input
            value={count}
            onChange={(event) => setCount(event.target.value)}
            inputMode="numeric"
            placeholder="as last"
            className="input w-24 font-mono"
          />
          of each
        </label>
      </p>
      {isWrong && <p className="text-signal">Give how many: up to 10,000 left, and up to 100,000 to order.</p>}
      <FailureNote failure={error} />
      {orders && orders.length === 0 && <p className="text-ink-2">Of every code that came in boxes enough is left.</p>}
      {orders?.map((order) => (
        <div key={`${order.formatId} ${order.facility}`} className="border-t border-faint pt-2">
          <p>
            {order.facility !== null && <strong>code {order.facility}, </strong>}
            {codeOf(order.facility, order.formatId) && `${codeOf(order.facility, order.formatId)!.name}, `}
            {nameOf(order.formatId)}: <strong>{order.inStock} left</strong>
          </p>
          <p className="text-ink-2">
            last{' '}
            <Link to={`/${site}/stock/boxes/${order.newest.id}`} className="underline">
              {order.newest.name}
            </Link>
            , {order.newest.first} – {order.newest.last}
          </p>
          {order.run ? (
            <p>
              to order{' '}
              <strong className="font-mono">
                {order.run.from} – {order.run.to}
              </strong>{' '}
              {onRun && (
                <button type="button" className="switch-link underline" onClick={() => onRun(order, order.run!)}>
                  they came: enter the box
                </button>
              )}
            </p>
          ) : (
            <p className="text-signal">No run of that many numbers is left: take another code, or another format.</p>
          )}
        </div>
      ))}
      {orders && orders.length > 0 && (
        <button type="button" className="btn btn-line self-start" onClick={() => keep(orders)}>
          As a sheet
        </button>
      )}
    </section>
  );
}
