/** Measures several jobs in turn, A B C A B C …, so that a drift of the machine's speed touches all alike. */

/** Each job returns how many operations it did; the result is each job's median operations per second. */
export function rounds(jobs: (() => number)[], count = 15, roundMs = 120): number[] {
  const rates: number[][] = jobs.map(() => []);
  for (let round = 0; round < count; round++) {
    jobs.forEach((job, i) => {
      const from = performance.now();
      let operations = 0;
      do operations += job();
      while (performance.now() - from < roundMs);
      rates[i]!.push((operations / (performance.now() - from)) * 1000);
    });
  }
  return rates.map((list) => list.slice(3).sort((a, b) => a - b)[Math.floor((list.length - 3) / 2)]!);
}

export function report(name: string, rate: number, unit: string): void {
  console.log(`${name}: ${(rate / 1e6).toFixed(2)} million ${unit}`);
}
