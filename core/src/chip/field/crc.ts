/** Checksums of contactless chips. */

const TABLE_A = table(0x8408);
const TABLE_32 = table(0xedb88320);

function table(polynomial: number): Uint32Array {
  return Uint32Array.from({ length: 256 }, (_, byte) => {
    let crc = byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ polynomial : crc >>> 1;
    return crc >>> 0;
  });
}

/** CRC_A (ISO/IEC 14443-3 §6.2.4, annex B): register preset 6363; two bytes as sent, the least significant first. */
export function crcA(bytes: Uint8Array): Uint8Array {
  let crc = 0x6363;
  for (const byte of bytes) crc = (crc >>> 8) ^ TABLE_A[(crc ^ byte) & 255]!;
  return Uint8Array.of(crc & 255, crc >>> 8);
}

/** CRC-32 of file-system cards: reflected, preset FFFFFFFF, not inverted at the end; the least significant byte first (CHIPS). */
export function crc32(bytes: Uint8Array): Uint8Array {
  let crc = 0xffffffff;
  for (const byte of bytes) crc = (crc >>> 8) ^ TABLE_32[(crc ^ byte) & 255]!;
  return Uint8Array.of(crc & 255, (crc >>> 8) & 255, (crc >>> 16) & 255, crc >>> 24);
}
