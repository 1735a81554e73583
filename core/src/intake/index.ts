/** Intake: a read from any notation that it can come in. */
export { intake, LONGEST_TEXT } from './intake.ts';
export { LONGEST_PASTE, MOST_LINES, readsIn, type TakenLine } from './lines.ts';
export { type Intake, type IntakeOptions, NOTATIONS, type Notation, type Reading } from './reading.ts';
