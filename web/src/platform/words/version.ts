/** The version of Raw Bits, put in when it is built. */
declare const __RAWBITS_VERSION__: string | undefined;

export const VERSION = typeof __RAWBITS_VERSION__ === 'string' ? __RAWBITS_VERSION__ : '';
