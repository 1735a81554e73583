/** Passwords: argon2id with the parameters that OWASP's cheat sheet gives (19 MiB, two passes, one lane). */
import { hash, verify } from '@node-rs/argon2';
import { Secret } from '@rawbits/core/secret';

/** argon2id is the package's default algorithm. */
const PARAMETERS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const hashPassword = (password: Secret): Promise<string> => hash(password.reveal(), PARAMETERS);

let decoy: Promise<string> | undefined;

/** Whether a password is right; takes as long for a name that nobody has. */
export async function passwordIs(hashed: string | undefined, password: Secret): Promise<boolean> {
  decoy ??= hashPassword(new Secret('nobody has this password'));
  const right = await verify(hashed ?? (await decoy), password.reveal());
  return hashed !== undefined && right;
}
