/** Proximity tags at 125 kHz: what they hold, how it is on the air, and what a reader makes of it. */
export { CARRIER_BITS, carrierBits, findCarrier, readCarrier } from './carrier.ts';
export { hears } from './downlink.ts';
export { FSK, type Fsk, isFsk, shifted, unshifted } from './fsk.ts';
export { demodulate, type HalfBits, MODULATIONS, type Modulation, modulate, type Signal } from './modulation.ts';
export { bitsHeard, CARRIER, IDENTIFICATION, type Listening, stringHeard, tagHeard } from './reader.ts';
export {
  blankTag,
  type Configuration,
  carrierContents,
  carrierTag,
  configurationIn,
  configurationOf,
  identificationContents,
  identificationTag,
  sendingOf,
  type TagContents,
  type TagMemory,
  type TagRefusal,
  writeTag,
} from './rewritable.ts';
export { findTag, readTag, TAG_BITS, type TagReading, tagBits } from './tag64.ts';
