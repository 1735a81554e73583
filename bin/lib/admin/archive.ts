/**
 * An encrypted archive that is written and read as a stream, whatever its size. The first line is JSON: what it is and how
 * its key comes from a passphrase (argon2id, RFC 9106). What follows is cut into chunks of 64 KiB, each sealed with
 * AES-256-GCM (NIST SP 800-38D) under a nonce of its number and a mark on the last one (the STREAM construction: Hoang,
 * Reyhanitabar, Rogaway, Vizár, CRYPTO 2015), so that chunks that were changed, exchanged, left out or cut off show. The
 * first line is authenticated with every chunk.
 */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { Transform } from 'node:stream';
import { hashRaw } from '@node-rs/argon2';

export const ARCHIVE = 'rawbits/archive@1';
const CHUNK_BYTES = 64 * 1024;
const TAG_BYTES = 16;
/** RFC 9106 §4, second recommended option: 64 MiB, three passes, four lanes. */
const KDF = { memoryCost: 65_536, timeCost: 3, parallelism: 4 };
const MOST_HEADER_BYTES = 1000;

interface Header {
  schema: string;
  kdf: { name: 'argon2id'; memoryKib: number; passes: number; lanes: number; salt: string };
}

/** A sentence for whoever runs the command; no stack. */
export class Told extends Error {}

const damaged = () => new Told('The archive is damaged, or was changed: it cannot be read any further.');

async function keyOf(passphrase: string, { kdf }: Header): Promise<Buffer> {
  return hashRaw(passphrase.normalize('NFKC'), {
    memoryCost: kdf.memoryKib,
    timeCost: kdf.passes,
    parallelism: kdf.lanes,
    salt: Buffer.from(kdf.salt, 'base64'),
    outputLen: 32,
  });
}

/** Eleven bytes of the chunk's number, one that says whether it is the last. */
function nonceOf(chunk: number, isLast: boolean): Buffer {
  const nonce = Buffer.alloc(12);
  nonce.writeBigUInt64BE(BigInt(chunk), 3);
  nonce[11] = isLast ? 1 : 0;
  return nonce;
}

/** Gathers what comes into chunks of one size; `seal` is told of each, and of the last as such. */
class Chunked extends Transform {
  private held: Buffer[] = [];
  private size = 0;
  private chunk = 0;

  constructor(
    private readonly chunkBytes: number,
    private readonly work: (chunk: Buffer, number: number, isLast: boolean) => Buffer,
  ) {
    super();
  }

  override _transform(bytes: Buffer, _encoding: string, done: (error?: Error) => void): void {
    try {
      this.held.push(bytes);
      this.size += bytes.length;
      // One is always kept back: it may be the last.
      if (this.size > this.chunkBytes) {
        let all = Buffer.concat(this.held);
        while (all.length > this.chunkBytes) {
          this.push(this.work(all.subarray(0, this.chunkBytes), this.chunk++, false));
          all = all.subarray(this.chunkBytes);
        }
        this.held = [all];
        this.size = all.length;
      }
      done();
    } catch (error) {
      done(error as Error);
    }
  }

  override _flush(done: (error?: Error) => void): void {
    try {
      this.push(this.work(Buffer.concat(this.held), this.chunk, true));
      done();
    } catch (error) {
      done(error as Error);
    }
  }
}

/** What seals everything that goes through it; its first bytes are the archive's first line. */
export async function sealing(passphrase: string): Promise<Transform> {
  const header: Header = {
    schema: ARCHIVE,
    kdf: {
      name: 'argon2id',
      memoryKib: KDF.memoryCost,
      passes: KDF.timeCost,
      lanes: KDF.parallelism,
      salt: randomBytes(16).toString('base64'),
    },
  };
  const line = Buffer.from(`${JSON.stringify(header)}\n`);
  const key = await keyOf(passphrase, header);
  const seal = new Chunked(CHUNK_BYTES, (chunk, number, isLast) => {
    const cipher = createCipheriv('aes-256-gcm', key, nonceOf(number, isLast)).setAAD(line);
    return Buffer.concat([cipher.update(chunk), cipher.final(), cipher.getAuthTag()]);
  });
  seal.push(line);
  return seal;
}

/** What opens an archive that goes through it, its first line left out. Throws where the passphrase is wrong. */
export async function opening(passphrase: string, line: Buffer): Promise<Transform> {
  const key = await keyOf(passphrase, headerIn(line));
  return new Chunked(CHUNK_BYTES + TAG_BYTES, (chunk, number, isLast) => {
    try {
      const decipher = createDecipheriv('aes-256-gcm', key, nonceOf(number, isLast)).setAAD(line);
      decipher.setAuthTag(chunk.subarray(-TAG_BYTES));
      return Buffer.concat([decipher.update(chunk.subarray(0, -TAG_BYTES)), decipher.final()]);
    } catch {
      throw number === 0 ? new Told('The passphrase is wrong, or the archive was changed.') : damaged();
    }
  });
}

/** Where the first line ends, counting its end; throws where it is none of an archive. */
export function headerEnd(start: Buffer): number {
  const end = start.subarray(0, MOST_HEADER_BYTES).indexOf(0x0a);
  if (end < 0) throw new Told('This is no archive of Raw Bits.');
  headerIn(start.subarray(0, end + 1));
  return end + 1;
}

function headerIn(line: Buffer): Header {
  try {
    const header = JSON.parse(line.toString('utf8')) as Header;
    const { name, memoryKib, passes, lanes, salt } = header.kdf;
    const sane = memoryKib <= 2 ** 21 && passes <= 20 && lanes <= 16 && Buffer.from(salt, 'base64').length >= 16;
    if (header.schema === ARCHIVE && name === 'argon2id' && sane) return header;
  } catch {
    // Told below.
  }
  throw new Told('This is no archive of Raw Bits, or of a version that this one does not know.');
}
