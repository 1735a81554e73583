/**
 * Keys sealed for a partner, together with the part of a plan or the settings of a reader that they are for: a JWE (RFC 7516) to the partner's public key, which
 * opens for nobody else, or under a passphrase, which opens for whoever is told it. What stands in it is JSON: `plan` or `reader`,
 * and `keys`, a JWK Set (RFC 7517).
 */
import type { newKeyRequestSchema } from '@rawbits/api';
import { CompactEncrypt, importJWK, type JWK } from 'jose';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { measuredJson } from '../../platform/shape/shape.ts';
import type { Open } from '../../platform/vault/index.ts';
import { keyOut } from './door.ts';
import { encryptUnder } from './file.ts';
import { noteHolding } from './holdings.ts';
import { calledIn, holdKey, readyVersionOf } from './rows.ts';
import { holdKeyAsSaved } from './use.ts';

type Asked = Extract<z.output<typeof newKeyRequestSchema>, { kind: 'seal' }>;

type PublicKey = Exclude<Asked['recipient'], { passphrase: unknown }>;

/** What of a request is kept until it is settled; a passphrase is not: it stands in an envelope beside it. */
export type About = Pick<Asked, 'partner' | 'keys' | 'content'> & { recipient: PublicKey | null };
export const aboutOf = ({ partner, recipient, keys, content }: Asked): About => ({
  partner,
  recipient: isPublicKey(recipient) ? recipient : null,
  keys,
  content,
});

export const isPublicKey = (recipient: Asked['recipient']): recipient is PublicKey => !('passphrase' in recipient);

/** RFC 7518 §4.6 and §4.3. */
const algOf = ({ kty }: PublicKey): string => (kty === 'RSA' ? 'RSA-OAEP-256' : 'ECDH-ES+A256KW');
const ENC = 'A256GCM';

/** Throws where nothing can be encrypted to a key: at once, and not when somebody has agreed. */
export async function checkRecipient(recipient: PublicKey): Promise<void> {
  try {
    await encrypted('x', recipient);
  } catch {
    throw invalid(
      'recipient',
      'Nothing can be encrypted to this key.',
      'A public key as a JWK is wanted: of the curve P-256, P-384, P-521 or X25519, or of RSA with 2048 bits or more.',
    );
  }
}

const encrypted = async (text: string, recipient: PublicKey): Promise<string> =>
  new CompactEncrypt(new TextEncoder().encode(text))
    .setProtectedHeader({ alg: algOf(recipient), enc: ENC, cty: 'json' })
    .encrypt(await importJWK(recipient as JWK, algOf(recipient)));

export async function sealInWords(tx: Queryable, site: string, { keys, partner }: Asked): Promise<string> {
  const called: string[] = [];
  for (const { keyId, version } of keys) {
    const key = await holdKey(tx, site, keyId);
    await readyVersionOf(tx, key.id, version);
    called.push(calledIn(key.set, key.name, version));
  }
  return `Seal for ${partner}: ${called.join(', ')}`;
}

/** Puts the keys in, and notes that the partner has them; `passphrase` is what opens it where there is no public key. */
export async function sealFor(
  app: App,
  tx: Queryable,
  open: Open,
  site: string,
  about: About,
  passphrase: Uint8Array | null,
): Promise<string> {
  const keys: object[] = [];
  for (const { keyId, version, as } of about.keys) {
    const key = await holdKeyAsSaved(app, tx, site, keyId);
    const row = await readyVersionOf(tx, key.id, version);
    keys.push({
      kty: 'oct',
      kid: as ?? key.name,
      k: Buffer.from(keyOut(open, 'sealed for a partner', key, row)).toString('base64url'),
      rawbits_kind: key.kind,
      rawbits_version: version,
    });
    const noted = {
      kind: 'partner',
      holderId: '',
      holder: about.partner,
      what: 'whole',
      how: 'sealed for them',
    } as const;
    await noteHolding(tx, key, version, noted);
  }
  const content = contentIn(about.content);
  const text = JSON.stringify({ [isReader(content) ? 'reader' : 'plan']: content, keys: { keys } });
  if (about.recipient) return encrypted(text, about.recipient);
  if (!passphrase) throw new Error('sealed for nobody');
  return encryptUnder(text, 'json', passphrase);
}

/** The settings of a reader; anything else is (a part of) a plan. */
const isReader = (content: unknown): boolean =>
  typeof content === 'object' && content !== null && 'settings' in content;

/** More than any list of a plan has. */
const MOST_IN_A_LIST = 10_000;

function contentIn(content: string): unknown {
  const value = measuredJson(content, MOST_IN_A_LIST);
  if (value === undefined) throw invalid('content', 'What is to be sealed is no JSON.');
  return value;
}
