/** A line chart of percentages as SVG text, for the docs: drawn once, looked at on paper or screen. */

interface Series {
  name: string;
  points: [x: number, percent: number][];
}

const [WIDTH, HEIGHT, LEFT, TOP, BOTTOM] = [640, 300, 46, 40, 44];
const DASHES = ['', '7 4', '2 3'];

export function lineChart(title: string, xName: string, series: readonly Series[]): string {
  const xs = series.flatMap(({ points }) => points.map(([x]) => x));
  const [least, most] = [Math.min(...xs), Math.max(...xs)];
  const x = (value: number) => LEFT + ((value - least) / Math.max(1, most - least)) * (WIDTH - LEFT - 150);
  const y = (percent: number) => TOP + (1 - percent / 100) * (HEIGHT - TOP - BOTTOM);
  const grid = [0, 25, 50, 75, 100]
    .map(
      (p) =>
        `<path d="M${LEFT} ${y(p)}H${WIDTH - 150}" stroke="#CDC7B4"/><text x="${LEFT - 8}" y="${y(p) + 4}" text-anchor="end">${p} %</text>`,
    )
    .join('');
  const ticks = [...new Set(xs)]
    .filter((value) => (most - least > 12 ? value % 4 === 0 || value === least : true))
    .map((value) => `<text x="${x(value)}" y="${HEIGHT - BOTTOM + 18}" text-anchor="middle">${value}</text>`)
    .join('');
  const lines = series
    .map(({ name, points }, i) => {
      const path = points.map(([px, p], k) => `${k === 0 ? 'M' : 'L'}${x(px).toFixed(1)} ${y(p).toFixed(1)}`).join('');
      const dots = points
        .map(([px, p]) => `<circle cx="${x(px).toFixed(1)}" cy="${y(p).toFixed(1)}" r="2.5" fill="#0B5D4E"/>`)
        .join('');
      const legendY = TOP + 14 + i * 20;
      return `<path d="${path}" fill="none" stroke="#0B5D4E" stroke-width="2" stroke-dasharray="${DASHES[i]}"/>${dots}<path d="M${WIDTH - 140} ${legendY - 4}h26" stroke="#0B5D4E" stroke-width="2" stroke-dasharray="${DASHES[i]}"/><text x="${WIDTH - 108}" y="${legendY}">${name}</text>`;
    })
    .join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="12" fill="#16262C" role="img"><title>${title}</title><rect width="${WIDTH}" height="${HEIGHT}" fill="#FBFAF5"/><text x="${LEFT}" y="22" font-size="14" font-weight="bold">${title}</text>${grid}${ticks}<text x="${(LEFT + WIDTH - 150) / 2}" y="${HEIGHT - 8}" text-anchor="middle">${xName}</text>${lines}</svg>\n`;
}

interface Bar {
  name: string;
  /** From 0 to 100. */
  value: number;
}

/** One bar a line, each with its name before it and its percentage after. */
export function barChart(title: string, bars: readonly Bar[]): string {
  const [left, row] = [190, 24];
  const height = TOP + bars.length * row + 12;
  const length = (value: number) => (value / 100) * (WIDTH - left - 70);
  const lines = bars
    .map(({ name, value }, i) => {
      const y = TOP + i * row;
      const end = left + length(value);
      return `<text x="${left - 8}" y="${y + 14}" text-anchor="end">${name}</text><rect x="${left}" y="${y + 3}" width="${length(value).toFixed(1)}" height="${row - 8}" fill="#0B5D4E"/><text x="${(end + 6).toFixed(1)}" y="${y + 14}">${value.toFixed(1)} %</text>`;
    })
    .join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" font-family="sans-serif" font-size="12" fill="#16262C" role="img"><title>${title}</title><rect width="${WIDTH}" height="${height}" fill="#FBFAF5"/><text x="16" y="22" font-size="14" font-weight="bold">${title}</text>${lines}</svg>\n`;
}
