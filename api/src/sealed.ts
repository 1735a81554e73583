/**
 * Secrets on their way to one process alone: a JWE (RFC 7516) to a key pair that it makes for the purpose and whose private half
 * stays in its memory, ECDH-ES with A256GCM (RFC 7518 §4.6). Whoever carries it learns nothing.
 */
import { CompactEncrypt, type CryptoKey, compactDecrypt, exportJWK, generateKeyPair, importJWK } from 'jose';

const ALG = 'ECDH-ES';
const ENC = 'A256GCM';

export interface OwnPair {
  /** JWK as text. */
  publicKey: string;
  privateKey: CryptoKey;
}

export async function newPair(): Promise<OwnPair> {
  const { publicKey, privateKey } = await generateKeyPair(ALG, { crv: 'P-256' });
  return { publicKey: JSON.stringify(await exportJWK(publicKey)), privateKey };
}

/** `about` says what it is, and has to be said again to open it. */
export async function sealedTo(publicKey: string, secret: Uint8Array, about: string): Promise<string> {
  return new CompactEncrypt(secret)
    .setProtectedHeader({ alg: ALG, enc: ENC, cty: about })
    .encrypt(await importJWK(JSON.parse(publicKey), ALG));
}

/** What is sealed; undefined where it is not for this pair, about something else, or changed. */
export async function openedWith(
  { privateKey }: OwnPair,
  sealed: string,
  about: string,
): Promise<Uint8Array | undefined> {
  try {
    const { plaintext, protectedHeader } = await compactDecrypt(sealed, privateKey, {
      keyManagementAlgorithms: [ALG],
      contentEncryptionAlgorithms: [ENC],
    });
    return protectedHeader.cty === about ? plaintext : undefined;
  } catch {
    return undefined;
  }
}
