/** Checksums as the host works them out, bit by bit: apart from the card's own tables, so that agreement means something. */

/** CRC of ISO/IEC 14443-3 annex B, type A: x^16 + x^12 + x^5 + 1, the lowest bit first, from 6363; two bytes, low first. */
export function checksum16(bytes: Uint8Array): number[] {
  let register = 0x6363;
  for (const byte of bytes)
    for (let bit = 0; bit < 8; bit++) {
      const out = (register ^ (byte >> bit)) & 1;
      register = (register >> 1) ^ (out ? 0x8408 : 0);
    }
  return [register % 256, Math.floor(register / 256)];
}

/** The CRC-32 of IEEE 802.3 without its last inversion; four bytes, low first. */
export function checksum32(bytes: Uint8Array): number[] {
  let register = -1;
  for (const byte of bytes)
    for (let bit = 0; bit < 8; bit++) {
      const out = (register ^ (byte >> bit)) & 1;
      register = (register >>> 1) ^ (out ? 0xedb88320 : 0);
    }
  return [0, 8, 16, 24].map((shift) => (register >>> shift) & 255);
}
