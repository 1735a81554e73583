/** Which badges stand on which page, and where: on paper from the browser as in the PDF. */
import type { Sheet } from './badge.ts';
import { type Paper, placesOn } from './pdf.ts';

export interface Page {
  kind: 'lengthwise' | 'upright' | 'a4';
  badges: { sheet: Sheet; x: number; y: number }[];
}

export function groupsOf(sheets: readonly Sheet[], paper: Paper): Page[] {
  if (paper === 'card')
    return sheets.map((sheet) => ({
      kind: sheet.width > sheet.height ? 'lengthwise' : 'upright',
      badges: [{ sheet, x: 0, y: 0 }],
    }));
  const pages: Page[] = [];
  for (const [i, { page, x, y }] of (sheets[0] ? placesOn(sheets.length, sheets[0]) : []).entries()) {
    pages[page] ??= { kind: 'a4', badges: [] };
    pages[page].badges.push({ sheet: sheets[i]!, x, y });
  }
  return pages;
}
