/** A kept exchange with a card played again on a simulated one: whether every answer is the same, byte for byte. */

export { ReplayedFiles } from './files.ts';
export { type KeptStep, type Replayed, replay, type Simulated } from './replay.ts';
export { ReplayedSectors } from './sectors.ts';
export { ReplayedTag } from './tag.ts';
