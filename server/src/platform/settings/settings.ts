/**
 * Settings of a server: everything that is read from its environment besides addresses and tokens, in one list, checked
 * at the start. `docs/guide.md` has the same list for whoever runs Raw Bits.
 */
import { Secret } from '@rawbits/core/secret';
import { z } from 'zod';

/** Hours and minutes are whole or broken decimals above 0. */
const duration = (least: number, most: number) => z.coerce.number().min(least).max(most);

export const settingsSchema = z.object({
  /** The address at which people reach Raw Bits; `https` makes the session's cookie travel over TLS only. */
  publicUrl: z
    .url({ protocol: /^https?$/, error: 'an http or https address, such as https://rawbits.station.example' })
    .optional(),
  /**
   * Whose `X-Forwarded-For` and `X-Forwarded-Proto` are believed: addresses or networks, separated by commas. Without
   * it whoever connects is the client.
   */
  trustedProxies: z
    .string()
    .transform((text) => text.split(',').map((part) => part.trim()))
    .pipe(
      z.array(
        z.union([z.enum(['loopback', 'linklocal', 'uniquelocal']), z.ipv4(), z.ipv6(), z.cidrv4(), z.cidrv6()], {
          error: 'addresses or networks such as 10.0.0.5 or 10.0.0.0/24, separated by commas',
        }),
      ),
    )
    .default([]),
  /** A session ends this long after the sign-in, however much it is used. */
  sessionHours: duration(0.01, 24 * 30).default(12),
  /** A session ends when nothing was asked in it for this long; a live stream is no use. */
  idleMinutes: duration(0.01, 24 * 60).default(30),
  /** A key store that nothing was done with for this long locks itself. */
  keyStoreIdleMinutes: duration(0.01, 12 * 60).default(15),
  /** The address on which it listens; anything but this machine's own wants TLS in front of it. */
  address: z.union([z.ipv4(), z.ipv6()], { error: 'an IP address such as 127.0.0.1 or 0.0.0.0' }).default('127.0.0.1'),
  logLevel: z
    .enum(['silent', 'fatal', 'error', 'warn', 'info', 'debug', 'trace'], {
      error: 'silent, fatal, error, warn, info, debug or trace',
    })
    .default('warn'),
  /**
   * How the way to the database is encrypted: a file with the certificates (PEM) that vouch for it, or `system` for those
   * that the machine trusts. Without it the way is not encrypted.
   */
  databaseCa: z.string().min(1).optional(),
  /** What a collector of metrics sends as its bearer token; without it there are no metrics. */
  metricsToken: z
    .string()
    .min(16, 'a text of at least 16 characters')
    .transform((text) => new Secret(text))
    .optional(),
});
export type Settings = z.output<typeof settingsSchema>;

/** The environment's names of the settings. */
export const SETTING_NAMES: Record<keyof Settings, string> = {
  publicUrl: 'RAWBITS_PUBLIC_URL',
  trustedProxies: 'RAWBITS_TRUSTED_PROXIES',
  sessionHours: 'RAWBITS_SESSION_HOURS',
  idleMinutes: 'RAWBITS_IDLE_MINUTES',
  keyStoreIdleMinutes: 'RAWBITS_KEY_STORE_IDLE_MINUTES',
  address: 'RAWBITS_ADDRESS',
  logLevel: 'RAWBITS_LOG',
  databaseCa: 'RAWBITS_DATABASE_CA',
  metricsToken: 'RAWBITS_METRICS_TOKEN',
};

/** Reads the settings; throws a sentence that names the first one that is wrong. */
export function settingsFrom(env: Record<string, string | undefined>): Settings {
  const given = Object.fromEntries(
    Object.entries(SETTING_NAMES).flatMap(([key, name]) => (env[name] ? [[key, env[name]]] : [])),
  );
  const result = settingsSchema.safeParse(given);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  const name = SETTING_NAMES[issue.path[0] as keyof Settings];
  const shown = name === 'RAWBITS_METRICS_TOKEN' ? '' : `=${env[name]}`;
  throw new Error(`${name}${shown} is not right: ${issue.message}.`);
}

/** The host names at which this server answers: a page of another name may not reach it through a browser. */
export function hostNames({ publicUrl }: Settings): Set<string> {
  const own = ['127.0.0.1', 'localhost', '[::1]'];
  return new Set(publicUrl ? [...own, new URL(publicUrl).hostname.toLowerCase()] : own);
}
