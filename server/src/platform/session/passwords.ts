/** Passwords: argon2id with the parameters that OWASP's cheat sheet gives (19 MiB, two passes, one lane). */
import { hash, verify } from '@node-rs/argon2';

/** argon2id is the package's default algorithm. */
const PARAMETERS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const hashPassword = (password: string): Promise<string> => hash(password, PARAMETERS);

let decoy: Promise<string> | undefined;

/** Whether a password is right; takes as long for a name that nobody has. */
export async function passwordIs(hashed: string | undefined, password: string): Promise<boolean> {
  decoy ??= hashPassword('nobody has this password');
  const right = await verify(hashed ?? (await decoy), password);
  return hashed !== undefined && right;
}
