/** Intake: a read from any notation that it can come in. */
export { intake, LONGEST_TEXT } from './intake.ts';
export { MOST_LINES, readsIn, type TakenLine } from './lines.ts';
export { type Intake, type IntakeOptions, LONGEST_PASTE, NOTATIONS, type Notation, type Reading } from './reading.ts';
export { pulsesInWords } from './recorded.ts';
