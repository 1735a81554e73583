/** Line: what runs between a reader and a controller: Wiegand pulses, OSDP frames, clock and data. */
export { bitsOfTrack, trackOfBits } from './clockAndData.ts';
export { bitsOfRawReply, buildOsdpFrame, type OsdpFrame, parseOsdpFrame, RAW, rawReplyData, SOM } from './osdp.ts';
export {
  type HeldBits,
  type LinePulses,
  type ReaderState,
  type Step,
  type Stepped,
  wiegandReaderStep,
} from './step.ts';
export {
  COMMON_TIMING,
  type LineFault,
  PULSE_SPACING_US,
  PULSE_WIDTH_US,
  type Pulse,
  type PulseTiming,
  pulsesOf,
  type Received,
  receivePulses,
} from './wiegand.ts';
