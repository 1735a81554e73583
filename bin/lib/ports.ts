/** Ports on loopback. */
import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';

/**
 * Below the ports that Linux gives to outgoing connections (32768 and up): whoever listens on one of these, stops and comes
 * back finds it as it was left.
 */
const [FIRST_PORT, LAST_PORT] = [20_000, 32_000];

/** A port that is free now, and that no outgoing connection will be given. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = randomInt(FIRST_PORT, LAST_PORT);
    if (await portIsFree(port)) return port;
  }
}

/** Why nothing can listen on a port of loopback, in words that follow its number; undefined where it can. */
export function portProblem(port: number): Promise<string | undefined> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', ({ code }: NodeJS.ErrnoException) =>
      resolve(code === 'EADDRINUSE' ? 'is taken by another program' : 'may not be used by this user'),
    );
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(undefined)));
  });
}

/** Whether nobody listens on a port of loopback. */
export const portIsFree = async (port: number): Promise<boolean> => (await portProblem(port)) === undefined;
