/** Badges on their pages, there only while they are printed. */
import { useEffect, useRef } from 'react';
import { createPortal } from 'react-dom';
import type { Sheet } from './badge.ts';
import { dataOf } from './OneBadge.tsx';
import { groupsOf } from './pages.ts';
import type { Paper } from './pdf.ts';
import { svgOf } from './svg.ts';

interface Props {
  sheets: readonly Sheet[];
  paper: Paper;
  onPrinted: () => void;
}

export function Printed({ sheets, paper, onPrinted }: Props) {
  const pages = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let isHere = true;
    const pictures = [...pages.current!.querySelectorAll('img')];
    void Promise.allSettled(pictures.map((picture) => picture.decode())).then(() => {
      if (!isHere) return;
      window.print();
      onPrinted();
    });
    return () => {
      isHere = false;
    };
  }, [onPrinted]);
  return createPortal(
    <div ref={pages} className="badge-pages">
      {groupsOf(sheets, paper).map(({ kind, badges }, page) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: pages stay where they are
        <div key={page} className={`badge-page badge-page-${kind}`}>
          {badges.map(({ sheet, x, y }) => (
            <img
              key={`${x} ${y}`}
              src={dataOf(svgOf(sheet))}
              alt={sheet.title}
              style={{ left: `${x}mm`, top: `${y}mm`, width: `${sheet.width}mm`, height: `${sheet.height}mm` }}
            />
          ))}
        </div>
      ))}
    </div>,
    document.body,
  );
}
