/**
 * Playing a kept exchange on a simulated card. What carries keys is not kept: such a command is made again with keys at
 * hand, and where several could have been meant, or a card was gone before it answered, each is tried, the likeliest first,
 * until one agrees with everything that follows.
 */
import type { ExchangeLine } from '../host/index.ts';

/** What went to and fro in a step of a run. */
export interface KeptStep {
  /** Whether the card was selected anew for it. */
  starts: boolean;
  /** Null where the commands of it were not kept. */
  lines: readonly ExchangeLine[] | null;
}

/** Picks one of so many: the first is the likeliest. */
export type Choose = (count: number) => number;

/** A card that an exchange is played on. */
export interface Simulated {
  /** The field goes and comes back. */
  powerOff(): void;
  /**
   * Does what a line says. Gives the answer as it would be kept; undefined where the line does not tell what was said, so
   * that nothing can be held against it.
   */
  play(line: ExchangeLine, choose: Choose): Promise<string | undefined>;
  /** It was gone in the middle of a write: what then stands there is told by the first that reads it. */
  cutShort?(line: ExchangeLine): void;
}

export interface Replayed {
  /** Commands that were played, up to the one that differs if one does. */
  played: number;
  /** Those of them whose answer was not held against the kept one, since it does not stand there. */
  unseen: number;
  /** Where the simulated card first answers otherwise, and what, in the form in which it would be kept. */
  differs?: { step: number; line: number; came: string };
  /** A step before that whose commands were not kept. */
  gap?: number;
}

/** So many ways are gone at most, and no further one after so many commands: one that agrees is found in the first few. */
const WAYS = 256;
const MOST_PLAYED = 50_000;
/** After so many commands others are let in between. */
const BETWEEN_PAUSES = 200;

/**
 * Plays steps on the cards that a blank may have been, the likeliest first. Grows with the lines; where it differs with the ways,
 * up to `MOST_PLAYED` commands and those of one way more. `pause` is waited for now and then.
 */
export async function replay(
  blanks: readonly (() => Simulated)[],
  steps: readonly KeptStep[],
  pause: () => Promise<void> = async () => {},
): Promise<Replayed> {
  let furthest: Replayed | undefined;
  let way: number[] | undefined = [];
  let played = 0;
  const paused = async () => {
    if (++played % BETWEEN_PAUSES === 0) await pause();
  };
  for (let tried = 0; way && tried < WAYS && played < MOST_PLAYED; tried++) {
    const taken: { choice: number; of: number }[] = [];
    const going: number[] = way;
    const choose: Choose = (of) => {
      const choice = going[taken.length] ?? 0;
      taken.push({ choice, of });
      return choice;
    };
    const found = await playedOn(blanks[choose(blanks.length)]!(), steps, choose, paused);
    if (!found.differs) return found;
    if (!furthest || found.played > furthest.played) furthest = found;
    way = nextWay(taken);
  }
  return furthest!;
}

/** The last choice that has another left is made otherwise; what came after it is open again. */
function nextWay(taken: readonly { choice: number; of: number }[]): number[] | undefined {
  const last = taken.findLastIndex(({ choice, of }) => choice + 1 < of);
  if (last < 0) return undefined;
  return [...taken.slice(0, last).map(({ choice }) => choice), taken[last]!.choice + 1];
}

async function playedOn(
  card: Simulated,
  steps: readonly KeptStep[],
  choose: Choose,
  paused: () => Promise<void>,
): Promise<Replayed> {
  const found: Replayed = { played: 0, unseen: 0 };
  for (const [step, { starts, lines }] of steps.entries()) {
    if (starts) card.powerOff();
    if (!lines) found.gap ??= step;
    for (const [i, line] of (lines ?? []).entries()) {
      found.played++;
      await paused();
      const came = line.gone ? await goneAt(card, line, choose) : await card.play(line, choose);
      if (came === undefined) found.unseen++;
      else if (came !== line.answer) return { ...found, differs: { step, line: i, came } };
    }
  }
  delete found.gap;
  return found;
}

/** A card that was gone did not do what it was told, did it, or did it in part. */
async function goneAt(card: Simulated, line: ExchangeLine, choose: Choose): Promise<undefined> {
  const how = choose(card.cutShort ? 3 : 2);
  if (how === 1) await card.play(line, choose);
  if (how === 2) card.cutShort?.(line);
}
