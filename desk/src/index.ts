/** A desk: real card readers, where they are plugged in. */
export { PcscTransport, readersThere } from './pcscTransport.ts';
