/**
 * Handing the store key from a server that holds it to another of the installation, by way of the database, which learns
 * nothing: each server makes a key pair at its start and keeps the private half in its memory. What is handed over is a
 * JWE (RFC 7516) to that key, ECDH-ES with A256GCM (RFC 7518 §4.6). Both the public key and what is handed over are
 * keyed with the trail's key, so that nobody who can only write to the database is taken for a server, or hands in a key.
 */
import { timingSafeEqual } from 'node:crypto';
import { CompactEncrypt, type CryptoKey, compactDecrypt, exportJWK, generateKeyPair, importJWK } from 'jose';
import type { TrailKeeper } from '../trail/keeper.ts';

const ALG = 'ECDH-ES';
const ENC = 'A256GCM';

/** The keyed hash of some parts, and whether one is right. */
export const macOf = (keeper: TrailKeeper, ...parts: string[]): string =>
  keeper.keyed(`vault ${JSON.stringify(parts)}`);
export const macHolds = (mac: string, wanted: string): boolean =>
  mac.length === wanted.length && timingSafeEqual(Buffer.from(mac), Buffer.from(wanted));

export interface OwnPair {
  /** JWK as text. */
  publicKey: string;
  privateKey: CryptoKey;
}

export async function newPair(): Promise<OwnPair> {
  const { publicKey, privateKey } = await generateKeyPair(ALG, { crv: 'P-256' });
  return { publicKey: JSON.stringify(await exportJWK(publicKey)), privateKey };
}

/** `about` says what it is, and has to be said again to take it. */
export async function sealedTo(publicKey: string, key: Uint8Array, about: string): Promise<string> {
  return new CompactEncrypt(key)
    .setProtectedHeader({ alg: ALG, enc: ENC, cty: about })
    .encrypt(await importJWK(JSON.parse(publicKey), ALG));
}

/** What was handed over; undefined where it is not for this pair, or about something else. */
export async function takenWith(
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
