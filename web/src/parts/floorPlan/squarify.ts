/** Rectangles whose areas are as given, as near to squares as can be (Bruls, Huizing, van Wijk: Squarified Treemaps, 2000). */

export interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Divides a rectangle by weights above zero, in the order given; the parts fill it and do not overlap. */
export function squarified(weights: readonly number[], { x, y, width, height }: Rect): Rect[] {
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  if (total <= 0) return [];
  const scale = (width * height) / total;
  const rects: Rect[] = [];
  let rest: Rect = { x, y, width, height };
  let row: number[] = [];
  const flush = () => {
    const area = row.reduce((sum, one) => sum + one, 0);
    const isWide = rest.width >= rest.height;
    const side = isWide ? rest.height : rest.width;
    const depth = side === 0 ? 0 : area / side;
    let along = 0;
    for (const one of row) {
      const length = depth === 0 ? 0 : one / depth;
      rects.push(
        isWide
          ? { x: rest.x, y: rest.y + along, width: depth, height: length }
          : { x: rest.x + along, y: rest.y, width: length, height: depth },
      );
      along += length;
    }
    rest = isWide
      ? { x: rest.x + depth, y: rest.y, width: rest.width - depth, height: rest.height }
      : { x: rest.x, y: rest.y + depth, width: rest.width, height: rest.height - depth };
    row = [];
  };
  for (const weight of weights) {
    const area = weight * scale;
    const side = Math.min(rest.width, rest.height);
    if (row.length > 0 && worst([...row, area], side) > worst(row, side)) flush();
    row.push(area);
  }
  if (row.length > 0) flush();
  return rects;
}

/** The worst ratio of sides in a row along a side. */
function worst(row: readonly number[], side: number): number {
  const sum = row.reduce((all, one) => all + one, 0);
  const most = Math.max(...row);
  const least = Math.min(...row);
  return Math.max((side * side * most) / (sum * sum), (sum * sum) / (side * side * least));
}
