/** How badges are to look: remembered for whoever is signed in, at each site. */
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import type { NumberOf } from './badge.ts';
import type { CodeKind } from './codes.ts';
import { DESIGNS } from './designs.ts';
import type { Paper } from './pdf.ts';

export interface BadgeSettings {
  design: string;
  code: CodeKind;
  numberOf: NumberOf;
  paper: Paper;
}

const AT_FIRST: BadgeSettings = { design: DESIGNS[0]!.name, code: 'barcode', numberOf: 'printed', paper: 'card' };

export function useBadgeSettings(site: string): [BadgeSettings, (next: Partial<BadgeSettings>) => void] {
  const [kept, keep] = useDraft<BadgeSettings>('looks of badges', site);
  const settings = kept ?? AT_FIRST;
  return [settings, (next) => keep({ ...settings, ...next })];
}
