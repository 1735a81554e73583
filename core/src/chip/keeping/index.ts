/** Keeping a simulated credential: its memory as text, and what a torn write leaves of it. */
export { type ChipMemory, copied, keptText, memoryFrom } from './kept.ts';
export { type Draw, torn } from './torn.ts';
