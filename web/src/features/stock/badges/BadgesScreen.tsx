/** Badges: those of one person, or of all whom a filter of the cardholders finds; looked at, printed, kept as PDF or SVG. */
import { MOST_BADGES } from '@rawbits/api';
import { zipSync } from 'fflate';
import { useCallback, useState } from 'react';
import { Link } from 'react-router';
import { useBadgesQuery } from '../../../platform/endpoints/people.ts';
import { downloadBytes } from '../../../platform/files/download.ts';
import { FailureNote, type Told } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { StockTabs } from '../StockTabs.tsx';
import { BadgeChoices } from './BadgeChoices.tsx';
import type { Sheet } from './badge.ts';
import { Marks } from './Marks.tsx';
import { OneBadge } from './OneBadge.tsx';
import { Printed } from './Printed.tsx';
import { pdfOf } from './pdf.ts';
import { svgOf } from './svg.ts';
import { useBadgeSettings } from './useBadgeSettings.ts';
import { useDrawing } from './useDrawing.ts';
import { useHolders } from './useHolders.ts';

const SHOWN = 40;
const NOT_LOADED: Told = {
  message: 'What badges are drawn with could not be loaded.',
  hint: 'Look whether the server can be reached, and load the page again.',
};
const NOT_DRAWN: Told = {
  message: 'The badges could not all be drawn: a photograph could not be fetched, or not be read.',
  hint: 'Try again, or leave out whoever has a picture that is not shown here.',
};

export function BadgesScreen() {
  const { id: site } = useSite();
  const { holders, isMore, isFetching, error: missing } = useHolders();
  const { currentData: badges = [], error } = useBadgesQuery({ site, holders }, { skip: holders.length === 0 });
  const [settings, onSettings] = useBadgeSettings(site);
  const { draw, failed, drawAll } = useDrawing(settings);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [cards, setCards] = useState<Readonly<Record<string, string>>>({});
  const [printing, setPrinting] = useState<Sheet[]>();
  const [done, setDone] = useState<number>();
  const [failure, setFailure] = useState<Told>();
  const chosen = badges.filter(({ holder }) => !left.has(holder.id));
  const organisations = [...new Set(badges.map(({ holder }) => holder.organisation).filter(Boolean))];
  const make = async (what: (sheets: Sheet[]) => Promise<void> | void) => {
    setFailure(undefined);
    setDone(0);
    try {
      const drawn = chosen.map((badge) => ({ badge, card: cards[badge.holder.id] }));
      await what(await drawAll(drawn, setDone));
    } catch {
      setFailure(NOT_DRAWN);
    }
    setDone(undefined);
  };
  const file = chosen.length === 1 ? `badge of ${chosen[0]!.holder.name}` : 'badges';
  const onPrinted = useCallback(() => setPrinting(undefined), []);
  const isReady = draw !== undefined && chosen.length > 0 && done === undefined;
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
        <Link to={`/${site}/stock/people`} className="btn btn-line ml-auto">
          Back to the cardholders
        </Link>
      </div>
      <FailureNote failure={failed ? NOT_LOADED : (failure ?? error ?? missing)} />
      <div className="grid min-h-0 flex-1 grid-cols-[21rem_minmax(0,1fr)] gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto max-lg:*:shrink-0">
        <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="How they look">
          <h2 className="text-[1.15rem]">{counted(chosen.length, 'badge')}</h2>
          <BadgeChoices settings={settings} onSettings={onSettings} />
          <div className="flex flex-wrap gap-2">
            <button
              type="button"
              className="btn btn-primary"
              disabled={!isReady}
              onClick={() => void make(setPrinting)}
            >
              Print
            </button>
            <button
              type="button"
              className="btn btn-line"
              disabled={!isReady}
              onClick={() =>
                void make(async (sheets) =>
                  downloadBytes(`${file}.pdf`, await pdfOf(sheets, settings.paper, file), 'application/pdf'),
                )
              }
            >
              PDF
            </button>
            <button
              type="button"
              className="btn btn-line"
              disabled={!isReady}
              onClick={() => void make((sheets) => asSvg(file, sheets))}
            >
              {chosen.length === 1 ? 'SVG' : 'SVG, in a zip'}
            </button>
          </div>
          {done !== undefined && (
            <p role="status">
              {done} of {chosen.length} drawn …
            </p>
          )}
          <Marks organisations={organisations} />
        </section>
        <section className="panel min-h-0 overflow-auto p-4" aria-label="Badges">
          {holders.length === 0 && <p className="text-ink-2">{isFetching ? 'Loading …' : 'Nobody is like that.'}</p>}
          {isMore && <p className="text-signal">The first {MOST_BADGES} are here: narrow the list for the others.</p>}
          <div className="flex flex-wrap items-start gap-5">
            {draw &&
              badges.slice(0, SHOWN).map((badge) => (
                <OneBadge
                  key={badge.holder.id}
                  badge={badge}
                  card={cards[badge.holder.id]}
                  draw={draw}
                  isIn={!left.has(badge.holder.id)}
                  onIn={(is) => {
                    const next = new Set(left);
                    if (is) next.delete(badge.holder.id);
                    else next.add(badge.holder.id);
                    setLeft(next);
                  }}
                  onCard={(id) => setCards({ ...cards, [badge.holder.id]: id })}
                  onSvg={(name, svg) => downloadBytes(`badge of ${name}.svg`, svg, 'image/svg+xml')}
                />
              ))}
          </div>
          {badges.length > SHOWN && (
            <p className="pt-3 text-ink-2">and {badges.length - SHOWN} more, which are printed with these</p>
          )}
        </section>
      </div>
      {printing && <Printed sheets={printing} paper={settings.paper} onPrinted={onPrinted} />}
    </div>
  );
}

/** One as it is; several in a zip, each under the name of its holder. */
function asSvg(file: string, sheets: readonly Sheet[]): void {
  if (sheets.length === 1) {
    downloadBytes(`${file}.svg`, svgOf(sheets[0]!), 'image/svg+xml');
    return;
  }
  const text = new TextEncoder();
  const files = sheets.map((sheet, i) => [
    `${String(i + 1).padStart(3, '0')} ${sheet.title.replace(/[\\/:*?"<>|]/g, '-').slice(0, 80)}.svg`,
    text.encode(svgOf(sheet)),
  ]);
  downloadBytes(`${file}.zip`, zipSync(Object.fromEntries(files)), 'application/zip');
}
