/** Proximity tags at 125 kHz: what they hold, how it is on the air, and what a reader makes of it. */
export { demodulate, MODULATIONS, type Modulation, modulate, type Signal } from './modulation.ts';
export {
  blankTag,
  type Configuration,
  configurationIn,
  configurationOf,
  identificationTag,
  sendingOf,
  type TagMemory,
  type TagRefusal,
  writeTag,
} from './rewritable.ts';
export { findTag, readTag, TAG_BITS, type TagReading, tagBits } from './tag64.ts';
