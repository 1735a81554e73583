/**
 * Claims: what each bit is. A formula is proven when the specimens settle every number bit that changed among them; what
 * the bit is for is a presumption of the layouts that agree.
 */
import { arrivalOf, type Layout, positionsOf, rangeOf } from '../format/index.ts';
import type { Analysis } from './analysis.ts';
import { numbered } from './analysis.ts';
import { varies } from './cards/columns.ts';
import type { BitFinding, Role, SettledBit } from './finding.ts';

/** Which bits of the key (number bits, then those of a known facility code) change among the specimens. */
export function changingBits({ main, width, facilities }: Analysis): number[] {
  if (!main) return [];
  const inside = numbered(main.reading);
  const known = inside.every((i) => facilities[i] !== undefined);
  const keys = inside.map((i) => main.reading.numbers[i]! | (known ? facilities[i]! << BigInt(width) : 0n));
  let changed = 0n;
  for (const key of keys) changed |= key ^ keys[0]!;
  const list: number[] = [];
  for (let k = 0; changed >> BigInt(k) !== 0n; k++) if ((changed >> BigInt(k)) & 1n) list.push(k);
  return list;
}

/** What single number bits do, where these cards settle it: proven even while others are not. */
export function settledNumberBits(analysis: Analysis): { settled: SettledBit[]; unsettled: number[] } {
  const changing = changingBits(analysis).filter((k) => k < analysis.width);
  if (!mayProve(analysis)) return { settled: [], unsettled: changing };
  const settled: SettledBit[] = [];
  const unsettled: number[] = [];
  for (const k of changing) {
    const effect = analysis.main!.hull.effectOf(k);
    if (!effect) {
      unsettled.push(k);
      continue;
    }
    const turns: number[] = [];
    for (let p = 1; p <= effect.length; p++) if (effect.at(p)) turns.push(p);
    settled.push({ bit: k, turns });
  }
  return { settled, unsettled };
}

/** The role of every position under a layout. */
export function rolesOf(layout: Layout): Map<number, Role> {
  const roles = new Map<number, Role>();
  for (const span of layout.spans) {
    const at = positionsOf(span.at);
    at.forEach((p, i) => {
      const arrival = arrivalOf(p, layout);
      const role: Role = { is: span.role, standing: 'presumed' };
      if (span.role === 'number') role.bit = at.length - 1 - i;
      if (span.role === 'parity' || span.role === 'check') {
        const covers = positionsOf(span.covers).map((c) => arrivalOf(c, layout));
        role.of = layout.arrives.reverseBytes || layout.arrives.reverseBits ? rangeOf(covers) : span.covers;
        if (span.role === 'parity') role.sense = span.sense;
      }
      roles.set(arrival, role);
    });
  }
  return roles;
}

export function roleInWords(role: Role | undefined): string {
  if (!role) return 'spare';
  if (role.is === 'number') return `number bit ${role.bit}`;
  if (role.is === 'parity') return `${role.sense} parity over ${role.of}`;
  if (role.is === 'check') return `check over ${role.of}`;
  if (role.is === 'facility') return 'facility code';
  return role.is;
}

const sameRole = (a: Role | undefined, b: Role | undefined): boolean => roleInWords(a) === roleInWords(b);

/** Whether what the specimens settle may be called proven: prints as they stand, agreeing, no rival, no suspect. */
export const mayProve = ({ main, rivals, nearPlaces }: Analysis): boolean =>
  main !== undefined &&
  main.sum === undefined &&
  main.reading.kind === 'as printed' &&
  main.hull.consistent &&
  rivals.length === 0 &&
  nearPlaces.length === 0;

export function bitFindings(analysis: Analysis): BitFinding[] {
  const { columns, specimens, main, hypotheses, length, width } = analysis;
  const changing = changingBits(analysis);
  const effects = main ? changing.map((k) => ({ k, bits: main.hull.effectOf(k) })) : [];
  const unsettled = effects.filter((e) => e.bits === undefined).map((e) => e.k);
  const settled = mayProve(analysis) && changing.length > 0 && unsettled.length === 0;
  const first = main ? numbered(main.reading)[0]! : 0;
  const firstKey = main ? keyBits(analysis, first) : 0n;
  const roles = hypotheses.map((h) => rolesOf(h.layout));
  return Array.from({ length }, (_, i) => {
    const at = i + 1;
    const changes = varies(columns[i]!, specimens.length);
    const agreed = roles.length > 0 && roles.every((r) => sameRole(r.get(at), roles[0]!.get(at)));
    const role = agreed ? (roles[0]!.get(at) ?? ({ is: 'spare', standing: 'presumed' } as Role)) : undefined;
    const alternatives = [...new Set(roles.map((r) => roleInWords(r.get(at))))];
    if (settled) {
      const of = effects.filter((e) => e.bits!.at(at) === 1).map((e) => e.k);
      const sum = of.filter((k) => (firstKey >> BigInt(k)) & 1n).length & 1;
      const plus = (specimens[first]!.bits.at(at) ^ sum) as 0 | 1;
      const formula = formulaInWords(at, of, plus, width);
      return {
        at,
        standing: 'proven' as const,
        xorOf: of.filter((k) => k < width),
        ...(of.some((k) => k >= width) && { xorOfFacility: of.filter((k) => k >= width).map((k) => k - width) }),
        plus,
        ...(role && { role }),
        ...(!role && { alternatives: alternatives.length > 0 ? alternatives : ['what it is for is not known'] }),
        changes,
        why: `${formula}: these cards settle every number bit that changed among them.`,
      };
    }
    if (role)
      return {
        at,
        standing: 'presumed' as const,
        role,
        changes,
        why: `Presumed ${roleInWords(role)}: ${hypotheses.length === 1 ? 'the simplest layout that agrees says so' : 'all layouts that agree say so'}.${unsettledWords(unsettled, width)}`,
      };
    return {
      at,
      standing: 'open' as const,
      alternatives:
        alternatives.length > 0
          ? alternatives
          : [changes ? 'changes, and nothing known explains how' : 'never changed'],
      changes,
      why:
        alternatives.length > 1
          ? `Open: ${alternatives.join(' or ')}. The cards read so far fit all of these.`
          : `Open: ${changes ? 'it changes among the cards, and no usual layout says how' : 'it never changed among the cards'}.`,
    };
  });
}

function keyBits({ main, facilities, width }: Analysis, index: number): bigint {
  const number = main!.reading.numbers[index]!;
  const known = numbered(main!.reading).every((i) => facilities[i] !== undefined);
  return known ? number | (facilities[index]! << BigInt(width)) : number;
}

const keyName = (k: number, width: number): string => (k < width ? `n${k}` : `f${k - width}`);

function formulaInWords(at: number, of: readonly number[], plus: 0 | 1, width: number): string {
  if (of.length === 0) return `bit ${at} is ${plus}, whatever those number bits are`;
  return `bit ${at} = ${of.map((k) => keyName(k, width)).join(' ⊕ ')}${plus ? ' ⊕ 1' : ''}`;
}

const unsettledWords = (unsettled: readonly number[], width: number): string =>
  unsettled.length === 0
    ? ''
    : ` Its formula is not proven: ${unsettled
        .slice(0, 6)
        .map((k) => keyName(k, width))
        .join(', ')}${unsettled.length > 6 ? ' …' : ''} never changed alone.`;
