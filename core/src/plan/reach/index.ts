/** Reach: all that some keys can do to a card, and what a plan must keep true of it. */
export { checkAgainst, checkAssertion, checkAssertions, type Held, type Reaches, reachesOf } from './assertions.ts';
export type { SlotKey, Step } from './model.ts';
export { type Blank, Player } from './play.ts';
export { type Ability, reach } from './reach.ts';
