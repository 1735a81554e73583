/** What a receiver makes of a recorded line: its reads, each with its pulses. */
import { fail } from '../failure/index.ts';
import { type Pulse, receivePulses } from '../line/index.ts';
import { type Intake, LONGEST_PASTE, type Reading } from './reading.ts';
import { recordingIn } from './recording.ts';

/** The reads of a recording; undefined where the text is none. Throws `recording-none`, or what the recording is refused for. */
export function recordedReads(text: string): Intake | undefined {
  if (text.length > LONGEST_PASTE || !/[\r\n]|\$var/.test(text)) return undefined;
  const recording = recordingIn(text);
  if (!recording) return undefined;
  const { reads, faults } = receivePulses(recording.pulses);
  const told = faults.slice(0, 3).map(({ message }) => message);
  if (reads.length === 0)
    fail(
      'recording-none',
      `No read came out of this recording. ${told.join(' ') || 'It has no pulses between two pauses.'}`,
      undefined,
      'Record both data wires while one card is read, from a little before to a little after.',
    );
  const [first, ...others] = reads.map(({ bits, startUs, endUs }): Reading => {
    const pulses = recording.pulses.filter(({ atUs }) => atUs >= startUs && atUs <= endUs);
    const note = [recording.notes.join(', '), pulsesInWords(pulses), ...told].filter(Boolean).join('; ');
    return { notation: 'pulses', bits, note, pulses };
  });
  return { readings: [first!], passedOver: '', ...(others.length > 0 && { others }) };
}

const range = (numbers: readonly number[]): string => {
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)].map((n) => Math.round(n));
  return least === most ? String(least) : `${least} to ${most}`;
};

/** `26 pulses, 50 µs wide, 1000 µs apart`. */
export function pulsesInWords(pulses: readonly Pulse[]): string {
  if (pulses.length === 0) return 'no pulses';
  const apart = pulses.slice(1).map(({ atUs }, i) => atUs - pulses[i]!.atUs);
  return [
    `${pulses.length} ${pulses.length === 1 ? 'pulse' : 'pulses'}, ${range(pulses.map(({ widthUs }) => widthUs))} µs wide`,
    ...(apart.length > 0 ? [`${range(apart)} µs apart`] : []),
  ].join(', ');
}
