/** The application directory of a sector card (NXP AN10787): blocks 1 and 2 say which application has which sector. */
import { hexOf, joined } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';

const POLYNOMIAL = 0x1d;
const PRESET = 0xc7;

/** CRC-8 of the directory: not reflected, over info byte and identifiers (AN10787 §3.7). */
export function directoryCrc(bytes: Uint8Array): number {
  let crc = PRESET;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = (crc & 0x80 ? (crc << 1) ^ POLYNOMIAL : crc << 1) & 255;
  }
  return crc;
}

export interface Directory {
  crc: number;
  holds: boolean;
  /** The sector of the publisher of the card; 0 for none. */
  publisher: number;
  /** Sectors that are not free: cluster and application, two bytes in hex. */
  applications: { sector: number; id: string }[];
}

/** `CRC ‖ info ‖ 15 × (application, cluster)` for sectors 1 to 15. Throws `directory` where the blocks have not 16 bytes. */
export function directoryIn(block1: Uint8Array, block2: Uint8Array): Directory {
  if (block1.length !== 16 || block2.length !== 16) fail('directory', 'A block of the directory has 16 bytes.');
  const bytes = joined(block1, block2);
  const crc = directoryCrc(bytes.subarray(1));
  const applications = Array.from({ length: 15 }, (_, i) => {
    const [application, cluster] = [bytes[2 + 2 * i]!, bytes[3 + 2 * i]!];
    return { sector: i + 1, id: hexOf(Uint8Array.of(cluster, application)) };
  }).filter(({ id }) => id !== '0000');
  return { crc, holds: crc === bytes[0], publisher: bytes[1]! & 0x3f, applications };
}

/** A file-system card's identifier from a directory's: F ‖ cluster ‖ application ‖ n, as a number; sent lowest byte first. */
export const filesIdFrom = (cluster: number, application: number, n: number): number =>
  (0xf << 20) | (cluster << 12) | (application << 4) | n;
