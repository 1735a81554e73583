/**
 * Advice: what a good colleague would say on seeing a layout, beyond what makes it unusable: the commonest slips, the
 * same format under another name, other formats that the same cards would fit, and how easily its cards are copied.
 */
import { digitWidth, type Layout, labelOf, nameOf, positionsOf, rangeOf, type Span } from '../format/index.ts';
import { type Shared, sharedCards, structureOf } from './structure.ts';

export interface Advice {
  code: 'coverage' | 'never' | 'same' | 'also-fits' | 'copied' | 'constant-check' | 'one-sided';
  /** A warning is likely a slip; a note is worth knowing. */
  severity: 'warning' | 'note';
  message: string;
  /** 1-based positions of the format's own order. */
  positions?: number[];
  /** The library format concerned. */
  format?: string;
}

interface Named extends Layout {
  id: string;
  name: string;
}

export interface AdviceOptions {
  /** Facility codes in use, for how many of the site's own cards another format also fits. */
  facilities?: readonly bigint[];
  /** The id of the format being edited, which is not compared with itself. */
  self?: string;
}

/** All advice on a sound layout, warnings first. `library` holds sound formats. */
export function adviceOn(layout: Layout, library: readonly Named[], options: AdviceOptions = {}): Advice[] {
  const others = library.filter((format) => format.id !== options.self && format.bits === layout.bits);
  const advice = [
    ...sameAs(layout, others),
    ...layout.spans.flatMap((span) => coverageAdvice(span, layout, others)),
    ...layout.spans.flatMap(neverAdvice),
    ...alsoFits(layout, others, options.facilities ?? []),
    copiedAdvice(layout),
  ];
  return advice.sort((a, b) => Number(a.severity === 'note') - Number(b.severity === 'note'));
}

function sameAs(layout: Layout, others: readonly Named[]): Advice[] {
  const own = structureOf(layout);
  return others
    .filter((format) => structureOf(format) === own)
    .map((format) => ({
      code: 'same',
      severity: 'warning',
      message: `These are the same bits as ${format.name} (${format.id}), which the library already has.`,
      format: format.id,
    }));
}

const span = (from: number, to: number): number[] => Array.from({ length: to - from + 1 }, (_, i) => from + i);

/** What a parity bit at this place usually covers: as the library's formats of this length do, else the halves. */
function usualCoverages(at: number, bits: number, others: readonly Named[]): number[][] {
  const known = others.flatMap((format) =>
    format.spans.flatMap((s) =>
      s.role === 'parity' && positionsOf(s.at)[0] === at ? [[...positionsOf(s.covers)].sort((a, b) => a - b)] : [],
    ),
  );
  if (known.length > 0) return known;
  const middles = [...new Set([Math.floor(bits / 2), Math.ceil(bits / 2)])];
  if (at === 1) return [...middles.map((m) => span(2, m)), span(2, bits - 1), span(2, bits)];
  if (at === bits) return [...middles.map((m) => span(bits + 1 - m, bits - 1)), span(2, bits - 1), span(1, bits - 1)];
  return [];
}

function coverageAdvice(parity: Span, layout: Layout, others: readonly Named[]): Advice[] {
  if (parity.role !== 'parity') return [];
  const covers = new Set(positionsOf(parity.covers));
  const usual = usualCoverages(positionsOf(parity.at)[0]!, layout.bits, others);
  let closest: { missing: number[]; extra: number[]; usual: number[] } | undefined;
  for (const list of usual) {
    const missing = list.filter((p) => !covers.has(p));
    const extra = [...covers].filter((p) => !list.includes(p));
    if (missing.length + extra.length === 0) return [];
    if (missing.length + extra.length === 1) closest ??= { missing, extra, usual: list };
  }
  if (!closest) return [];
  const slip =
    closest.missing.length > 0 ? `bit ${closest.missing[0]} is missing` : `bit ${closest.extra[0]} is too many`;
  return [
    {
      code: 'coverage',
      severity: 'warning',
      message: `Parity bit ${parity.at} covers ${parity.covers}; usual is ${rangeOf(closest.usual)}: ${slip}.`,
      positions: [...closest.missing, ...closest.extra],
    },
  ];
}

function neverAdvice(value: Span): Advice[] {
  if (labelOf(value) === undefined || !('written' in value) || !value.written) return [];
  const at = positionsOf(value.at);
  const digits = at.length / digitWidth(value.written);
  return [
    {
      code: 'never',
      severity: 'note',
      message: `${nameOf(value)} is ${digits} decimal ${digits === 1 ? 'digit' : 'digits'}: a digit above 9 never occurs, and a read that has one does not fit.`,
      positions: at,
    },
  ];
}

/** A share of one in 2^power, as people say it. */
export function shareInWords(power: number | null): string {
  if (power === null) return 'none';
  if (power === 0) return 'every card';
  if (power <= 40) return `one card in ${(2 ** power).toLocaleString('en')}`;
  return `one card in 2^${power}`;
}

function alsoFits(layout: Layout, others: readonly Named[], facilities: readonly bigint[]): Advice[] {
  return others.flatMap((format): Advice[] => {
    const shared = sharedCards(layout, format);
    if (shared.fits === null || structureOf(format) === structureOf(layout)) return [];
    const here = facilities
      .map((facility) => ({ facility, shared: sharedCards(layout, format, { facility }) }))
      .filter(({ shared }) => shared.sameNumber !== null);
    return [
      {
        code: 'also-fits',
        severity: shared.fits <= 2 ? 'warning' : 'note',
        message: `${format.name} (${format.id}) also fits ${shareInWords(shared.fits)} of this format${numberWords(shared)}${siteWords(here)}.`,
        format: format.id,
      },
    ];
  });
}

function numberWords({ fits, sameNumber }: Shared): string {
  if (sameNumber === null) return ', always with another number';
  return fits === sameNumber ? ', with the same number' : `, and shows the same number on ${shareInWords(sameNumber)}`;
}

function siteWords(here: { facility: bigint; shared: Shared }[]): string {
  const worst = here.sort((a, b) => a.shared.sameNumber! - b.shared.sameNumber!)[0];
  return worst ? `; with facility code ${worst.facility}, on ${shareInWords(worst.shared.sameNumber)}` : '';
}

function copiedAdvice(layout: Layout): Advice {
  const serial = layout.spans.length === 1 && layout.spans[0]!.role === 'number' && layout.bits % 8 === 0;
  return {
    code: 'copied',
    severity: 'note',
    message: serial
      ? 'A bare serial number proves nothing: anybody with a reader can copy it onto a card that lets its serial number be written. Where it matters, choose a credential with keys.'
      : 'Nothing in these bits is secret, whatever carries them: from a proximity card anybody with a reader copies them in a second. For a new site choose a credential with keys, and send these bits only after it has proved itself.',
  };
}
