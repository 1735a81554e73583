/**
 * Which single errors a proven prediction withstands. One wrong print, one misread bit, or one card of another code: it withstands them
 * when it follows from the other cards whichever one is left out, so that the wrong one either contradicts them or changes
 * nothing. One exchanged pair: when with any two prints exchanged the cards contradict one another or still give the same bits.
 */

import type { Hull } from './algebra/hull.ts';
import { type Analysis, keyOf, numbered } from './analysis.ts';
import type { PrintValue } from './cards/readings.ts';
import { hullOf } from './doubts.ts';
import type { PredictionFinding, SingleError } from './finding.ts';
import { printOf } from './predict.ts';

/** The pairs of more cards than these are not gone through. */
const MOST_CARDS = 40;
const OF_ONE_CARD: SingleError[] = ['wrong print', 'misread bit', 'other facility code'];

/**
 * Names them on the predictions that are proven, and which of `others`, cards that may be read, would show an exchange. Grows
 * with the square of the cards, times a hull; not with the predictions.
 */
export function withErrors(
  analysis: Analysis,
  predictions: readonly PredictionFinding[],
  others: readonly PrintValue[] = [],
): PredictionFinding[] {
  const { main } = analysis;
  if (!main || !predictions.some(({ standing }) => standing === 'proven')) return [...predictions];
  const inside = numbered(main.reading);
  if (inside.length > MOST_CARDS) return [...predictions];
  const without = inside.map((left) =>
    hullOf(
      analysis,
      inside.filter((i) => i !== left),
    ),
  );
  const exchanged = pairsOf(inside).flatMap(([a, b]) => {
    const { numbers } = main.reading;
    const hull = hullOf(analysis, inside, (i) => (i === a ? numbers[b]! : i === b ? numbers[a]! : numbers[i]!));
    return hull.consistent ? [{ a, b, hull }] : [];
  });
  return predictions.map((prediction) => {
    if (prediction.standing !== 'proven') return prediction;
    const print = printOf(prediction.printed);
    const number = main.reading.numberOf(print)!;
    const key = keyOf(
      number,
      facilityKnown(analysis, inside) ? (print.facility ?? analysis.facilities[inside[0]!]) : undefined,
      analysis.width,
    );
    const same = (hull: Hull) => hull.predict(key)?.bits.toBinary() === prediction.bits;
    const row = (i: number) => analysis.specimens[i]!.index + 1;
    const alone = without.findIndex((hull) => !same(hull));
    const swapped = exchanged.find(({ hull }) => !same(hull));
    const withstands: SingleError[] = [
      ...(alone < 0 ? OF_ONE_CARD : []),
      ...(swapped ? [] : ['exchanged pair' as const]),
    ];
    const unless = [
      ...(alone < 0 ? [] : [`card ${row(inside[alone]!)} had a wrong print or were misread`]),
      ...(swapped ? [`the prints of cards ${row(swapped.a)} and ${row(swapped.b)} were exchanged`] : []),
    ];
    const pair = swapped && ([inside.indexOf(swapped.a), inside.indexOf(swapped.b)] as const);
    const shown = pair && cardThatShows(analysis, others, pair);
    const more = shown === undefined ? '' : ` One more card, ${shown}, would show the exchange.`;
    const words = unless.length === 0 ? '' : ` If ${unless.join(', or ')}, it would be otherwise.${more}`;
    return { ...prediction, withstands, why: `${prediction.why}${words}` };
  });
}

/**
 * A card that was not read yet and that adds up with one of two exchanged ones alone: their numbers together are what they were, so with
 * them exchanged it contradicts the rest.
 */
function cardThatShows(
  { main, facilities, width }: Analysis,
  others: readonly PrintValue[],
  pair: readonly [number, number],
): string | undefined {
  const inside = numbered(main!.reading);
  const read = new Set(inside.map((i) => main!.reading.numbers[i]!));
  const known = inside.every((i) => facilities[i] !== undefined);
  return others.find((print) => {
    const number = main!.reading.numberOf(print);
    if (number === undefined || read.has(number)) return false;
    const from = main!.hull.predict(
      keyOf(number, known ? (print.facility ?? facilities[inside[0]!]) : undefined, width),
    )?.from;
    return from !== undefined && from.includes(pair[0]) !== from.includes(pair[1]);
  })?.text;
}

const facilityKnown = ({ facilities }: Analysis, inside: readonly number[]): boolean =>
  inside.every((i) => facilities[i] !== undefined);

const pairsOf = (list: readonly number[]): [number, number][] =>
  list.flatMap((a, i) => list.slice(i + 1).map((b): [number, number] => [a, b]));
