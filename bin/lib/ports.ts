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

/** Whether nobody listens on a port of loopback. */
export function portIsFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}
