/** Who of the demo can sign in, printed at a start: those who are there, with the password that the demo gave them. */
import { readFileSync } from 'node:fs';
import { verify } from '@node-rs/argon2';
import { connect } from '../../server/src/platform/database/connect.ts';

export interface SignIn {
  login: string;
  password: string;
  role: string;
}

/** `passphrase` is that of the demo's key store; left out where it may be another by now. */
export function printSignIns(signIns: readonly SignIn[], passphrase?: string): void {
  if (signIns.length === 0) return;
  console.log('Demo sign-ins (name / password):');
  for (const { login, password, role } of signIns) console.log(`  ${login.padEnd(8)} ${password.padEnd(22)} ${role}`);
  if (passphrase !== undefined) console.log(`Passphrase of the demo's key store: ${passphrase}`);
}

/** Of the demo's sign-ins those that still hold in a database, and whether a key store there still has its first passphrase. */
export async function signInsIn(
  databaseUrl: string,
  all: readonly SignIn[],
): Promise<{ signIns: SignIn[]; hasFirstPassphrase: boolean }> {
  const authority = process.env.RAWBITS_DATABASE_CA;
  // As the server has it: a file of certificates, or `system`.
  const tls = authority && (authority === 'system' ? {} : { ca: readFileSync(authority, 'utf8') });
  const { nodes, close } = connect(databaseUrl, tls ? { tls } : {});
  try {
    const [rows] = await nodes.query(
      'SELECT login, password_hash FROM operators WHERE closed_at IS NULL AND login IN (?)',
      [all.map(({ login }) => login)],
    );
    const hashes = new Map(
      (rows as { login: string; password_hash: string }[]).map((row) => [row.login, row.password_hash]),
    );
    const holds = await Promise.all(
      all.map(({ login, password }) => {
        const hash = hashes.get(login);
        return hash !== undefined && verify(hash, password);
      }),
    );
    const [stores] = await nodes.query('SELECT revision FROM key_stores WHERE revision = 1');
    return { signIns: all.filter((_, i) => holds[i]), hasFirstPassphrase: (stores as unknown[]).length > 0 };
  } finally {
    await close();
  }
}
