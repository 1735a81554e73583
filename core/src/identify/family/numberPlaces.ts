/**
 * Where a number may stand: in one piece, in any order, inverted or not; or in two pieces as sent. Each place has to hold every
 * number that is asked about. Of the number's bits those that change matter; where the others stand they are constants.
 */
import { type PlaceOrder, positionOf } from '../cards/places.ts';

export interface NumberAt {
  order: PlaceOrder;
  inverted: boolean;
  /** Positions (from 0) of the number bits, the least significant first. */
  positions: number[];
  pieces: 1 | 2;
}

interface Wanted {
  length: number;
  /** How many bits the greatest number has. */
  width: number;
  /** Whether number bit k stands at a position in every read; inverted, its complement. */
  stands(k: number, position: number, inverted: boolean): boolean;
}

const ORDERS: PlaceOrder[] = ['as sent', 'bits reversed', 'bytes reversed'];

/** All of them, one after the other. Grows with the square of the length and the width. */
export function* numberPlaces(wanted: Wanted): Generator<NumberAt> {
  for (const inverted of [false, true]) {
    yield* inOnePiece(wanted, inverted);
    yield* inTwoPieces(wanted, inverted);
  }
}

function* inOnePiece({ length, width, stands }: Wanted, inverted: boolean): Generator<NumberAt> {
  for (const order of ORDERS) {
    // A byte in another order is the same byte, and one bit the same bit.
    if ((order === 'bytes reversed' && width <= 8) || (order === 'bits reversed' && width === 1)) continue;
    for (let origin = 0; origin < length; origin++) {
      const positions: number[] = [];
      for (let k = 0; k < width; k++) {
        const at = positionOf(order, origin, k);
        if (at < 0 || at >= length || !stands(k, at, inverted)) break;
        positions.push(at);
      }
      if (positions.length === width) yield { order, inverted, positions, pieces: 1 };
    }
  }
}

/** `runs[k][p]`: how many bits from k on stand from p to the left. */
function runsOf({ length, width, stands }: Wanted, inverted: boolean): Int32Array[] {
  const runs = Array.from({ length: width + 1 }, () => new Int32Array(length));
  for (let k = width - 1; k >= 0; k--)
    for (let p = 0; p < length; p++) if (stands(k, p, inverted)) runs[k]![p] = 1 + (p > 0 ? runs[k + 1]![p - 1]! : 0);
  return runs;
}

function* inTwoPieces(wanted: Wanted, inverted: boolean): Generator<NumberAt> {
  const { length, width } = wanted;
  const runs = runsOf(wanted, inverted);
  for (let low = 0; low < length; low++)
    for (let cut = Math.min(runs[0]![low]!, width - 1); cut >= 1; cut--)
      for (let high = width - cut - 1; high < length; high++) {
        if (high === low - cut || runs[cut]![high]! < width - cut) continue;
        const [lowEnd, highEnd] = [low - cut + 1, high - (width - cut) + 1];
        if (high >= lowEnd && highEnd <= low) continue;
        const positions = Array.from({ length: width }, (_, k) => (k < cut ? low - k : high - (k - cut)));
        yield { order: 'as sent', inverted, positions, pieces: 2 };
      }
}
