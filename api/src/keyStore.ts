/** The key store of a site: made with a passphrase, unlocked, locked; what in it takes two custodians; backups. */
import { z } from 'zod';
import { idSchema, instant, name, secret } from './parts.ts';
import { route } from './route.ts';

export const keyStoreSchema = z.object({
  set: z.boolean(),
  open: z.boolean(),
  openedBy: z.string().nullable(),
  openedAt: instant.nullable(),
  /** When it locks by itself, unless something is done with it. */
  locksAt: instant.nullable(),
  /** Open accounts of the site: key custodians, and those who may be the second person where somebody becomes one. */
  people: z.object({ custodians: z.number().int(), agree: z.number().int() }),
  /** Of the passphrase, and how often it was set. */
  setAt: instant.nullable(),
  revision: z.number().int(),
  /** The running servers of the installation, and whether each holds the store key. */
  servers: z.array(z.object({ name: z.string(), holds: z.boolean(), self: z.boolean() })),
});
export type KeyStore = z.infer<typeof keyStoreSchema>;

export const newPassphraseSchema = secret(
  z.string().min(12, 'A passphrase has at least 12 characters.').max(200, 'At most 200 characters.'),
);
export const givenPassphrase = secret(z.string().min(1, 'Give the passphrase.').max(200));

export const unlockSchema = z.strictObject({ passphrase: givenPassphrase });
export const makeStoreSchema = z.strictObject({ passphrase: newPassphraseSchema });
export const changePassphraseSchema = z.strictObject({ current: givenPassphrase, next: newPassphraseSchema });

const atStore = '/sites/{site}/key-store';

export const keyStoreApi = {
  state: route({
    method: 'get',
    path: atStore,
    summary: 'Whether the key store is open, for which servers, and until when',
    needs: 'see the site',
    answers: keyStoreSchema,
  }),
  make: route({
    method: 'post',
    path: atStore,
    summary: 'Make the key store of a site, with its passphrase',
    needs: 'hold keys',
    body: makeStoreSchema,
    answers: keyStoreSchema,
  }),
  unlock: route({
    method: 'post',
    path: `${atStore}/unlock`,
    summary: 'Unlock it, for all servers',
    needs: 'hold keys',
    body: unlockSchema,
    answers: keyStoreSchema,
  }),
  lock: route({
    method: 'post',
    path: `${atStore}/lock`,
    summary: 'Lock it, for all servers',
    needs: 'hold keys',
    answers: keyStoreSchema,
  }),
  changePassphrase: route({
    method: 'post',
    path: `${atStore}/passphrase`,
    summary: 'Change its passphrase: the store key is wrapped anew',
    needs: 'hold keys',
    body: changePassphraseSchema,
    answers: keyStoreSchema,
  }),
};

/** Why something is asked for: stands in the trail. */
export const reasonSchema = z
  .string()
  .trim()
  .min(8, 'Say why, in a few words: it stands in the trail.')
  .max(400, 'At most 400 characters.');
export const keyVersionNumber = z.coerce.number().int().min(0).max(255);

/** What takes two custodians. Of a backup each gives a part of its passphrase, and neither learns the other's. */
export const keyRequestKindSchema = z.enum(['uncover', 'destroy', 'backup', 'abandon', 'seal']);
/** A public key as RFC 7517 has it, of an elliptic curve or of RSA; one with its private part is refused. */
export const publicJwkSchema = z
  .looseObject({ kty: z.enum(['EC', 'RSA', 'OKP']) })
  .refine((jwk) => !('d' in jwk), 'This is the private key: ask them for the public one, and for a new pair.')
  .refine((jwk) => JSON.stringify(jwk).length <= 4000, 'A public key is shorter than this.');
export const newKeyRequestSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.enum(['uncover', 'destroy']),
    keyId: idSchema,
    version: keyVersionNumber,
    reason: reasonSchema,
  }),
  z.strictObject({ kind: z.literal('backup'), reason: reasonSchema, part: newPassphraseSchema }),
  z.strictObject({ kind: z.literal('abandon'), reason: reasonSchema }),
  /** Keys together with what they are for, encrypted to a partner's public key or under a passphrase. */
  z.strictObject({
    kind: z.literal('seal'),
    partner: name,
    recipient: publicJwkSchema.or(z.strictObject({ passphrase: newPassphraseSchema })),
    keys: z
      .array(
        z.strictObject({
          keyId: idSchema,
          version: keyVersionNumber,
          /** What the plan calls it, where that is not its name in the store. */
          as: name.optional(),
        }),
      )
      .min(1)
      .max(64),
    /** A part of a plan, as JSON. */
    content: z.string().max(300_000),
    reason: reasonSchema,
  }),
]);
export type NewKeyRequest = z.input<typeof newKeyRequestSchema>;

export const keyRequestSchema = z.object({
  id: idSchema,
  kind: keyRequestKindSchema,
  /** What is to be done, as a sentence. */
  what: z.string(),
  reason: z.string(),
  askedBy: name,
  askedAt: instant,
  endsAt: instant,
  /** `agreed` is an uncovering that whoever asked may look at, once. */
  state: z.enum(['open', 'agreed']),
  agreedBy: z.string().nullable(),
  /** Whether whoever reads this asked for it themselves. */
  mine: z.boolean(),
});
export type KeyRequest = z.infer<typeof keyRequestSchema>;

export const agreeSchema = z.strictObject({ part: newPassphraseSchema.optional() });

/** A key in the clear: for whoever asked, with another's agreement, once. */
export const uncoveredSchema = z.object({ name: z.string(), version: z.number().int(), hex: z.string() });

const atRequests = '/sites/{site}/key-requests';

export const keyRequestApi = {
  list: route({
    method: 'get',
    path: atRequests,
    summary: 'What of the keys waits for a second custodian',
    needs: 'hold keys',
    answers: z.array(keyRequestSchema),
  }),
  ask: route({
    method: 'post',
    path: atRequests,
    summary:
      'Ask for a second custodian: to uncover or destroy a version of a key, make a backup, or give the store up',
    needs: 'hold keys',
    body: newKeyRequestSchema,
    limits: { bytes: 400_000, entries: 500 },
    answers: keyRequestSchema,
  }),
  agree: route({
    method: 'post',
    path: `${atRequests}/{id}/agree`,
    summary: 'Agree, as the second custodian; to a backup with the second part of its passphrase',
    needs: 'hold keys',
    body: agreeSchema,
    answers: z.object({}),
  }),
  refuse: route({
    method: 'post',
    path: `${atRequests}/{id}/refuse`,
    summary: 'Refuse it, or take back what one asked for oneself',
    needs: 'hold keys',
    answers: z.object({}),
  }),
  see: route({
    method: 'post',
    path: `${atRequests}/{id}/see`,
    summary: 'Look at the key that was agreed on, once',
    needs: 'hold keys',
    secret: true,
    answers: uncoveredSchema,
  }),
  sealed: route({
    method: 'post',
    path: `${atRequests}/{id}/sealed`,
    summary: 'Take what was agreed on to be sealed: a JWE (RFC 7516) for its recipient alone, once',
    needs: 'hold keys',
    secret: true,
    answers: z.object({ name: z.string(), jwe: z.string() }),
  }),
};

export const keyBackupSchema = z.object({
  id: idSchema,
  keys: z.number().int(),
  madeAt: instant,
  firstBy: name,
  secondBy: name,
  rehearsedAt: instant.nullable(),
  rehearsedBy: z.string().nullable(),
});
export type KeyBackup = z.infer<typeof keyBackupSchema>;

/** Compact JWE (RFC 7516 §7.1). */
export const jweSchema = z
  .string()
  .trim()
  .max(8_000_000)
  .regex(/^[\w-]+\.[\w-]*\.[\w-]+\.[\w-]+\.[\w-]+$/, 'This is no encrypted file of keys (a compact JWE).');
export const openBackupSchema = z.strictObject({
  jwe: jweSchema,
  first: secret(z.string().max(200)),
  second: secret(z.string().max(200)),
});

/** A version of a key in a file, against what the store has. */
export const fileKeySchema = z.object({
  set: z.string(),
  name: z.string(),
  version: z.number().int(),
  kind: z.string(),
  checkValue: z.string(),
  /** `new` is not in the store; `differs` is there under the same name and version, and another key. */
  standing: z.enum(['same', 'new', 'differs']),
});
export const keyFileReportSchema = z.object({
  site: z.string().nullable(),
  madeAt: z.string().nullable(),
  keys: z.array(fileKeySchema),
  /** What the store has and the file has not, as set, name and version. */
  missing: z.array(z.string()),
});
export type KeyFileReport = z.infer<typeof keyFileReportSchema>;

const atBackups = '/sites/{site}/key-backups';
const LARGE = { bytes: 8_100_000 };

export const keyBackupApi = {
  list: route({
    method: 'get',
    path: atBackups,
    summary: 'The backups that were made of the keys',
    needs: 'hold keys',
    answers: z.array(keyBackupSchema),
  }),
  file: route({
    method: 'get',
    path: `${atBackups}/{id}/file`,
    summary: 'The encrypted file of a backup',
    needs: 'hold keys',
    answers: z.object({ name: z.string(), jwe: z.string() }),
  }),
  rehearse: route({
    method: 'post',
    path: `${atBackups}/rehearsal`,
    summary: 'Open a backup and go through all of it, without changing anything',
    needs: 'hold keys',
    body: openBackupSchema,
    limits: LARGE,
    answers: keyFileReportSchema,
  }),
  restore: route({
    method: 'post',
    path: `${atBackups}/restore`,
    summary: 'Take every key of a backup in that the store has not; all or nothing',
    needs: 'hold keys',
    body: openBackupSchema,
    limits: LARGE,
    answers: keyFileReportSchema,
  }),
};
