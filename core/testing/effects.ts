/** What random walks report: in how many of them each command of a chip had an effect. */
export function reportEffects(card: string, effects: ReadonlyMap<string, number>): void {
  const lines = [...effects].sort(([, a], [, b]) => a - b).map(([name, walks]) => `${name} ${walks}`);
  process.stdout.write(`Commands on ${card} by the walks in which each had an effect: ${lines.join(', ')}\n`);
}
