/**
 * Handing the store key from a server that holds it to another of the installation, by way of the database, which learns
 * nothing: each server makes a key pair at its start and keeps the private half in its memory. What is handed over is a
 * JWE (RFC 7516) to that key, ECDH-ES with A256GCM (RFC 7518 §4.6). Both the public key and what is handed over are
 * keyed with the trail's key, so that nobody who can only write to the database is taken for a server, or hands in a key.
 */
import { timingSafeEqual } from 'node:crypto';
import type { TrailKeeper } from '../trail/keeper.ts';

/** The keyed hash of some parts, and whether one is right. */
export const macOf = (keeper: TrailKeeper, ...parts: string[]): string =>
  keeper.keyed(`vault ${JSON.stringify(parts)}`);
export const macHolds = (mac: string, wanted: string): boolean =>
  mac.length === wanted.length && timingSafeEqual(Buffer.from(mac), Buffer.from(wanted));
