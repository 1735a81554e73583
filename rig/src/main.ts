/** The rig's process. It goes on when the server restarts, and keeps what its controllers were loaded with. */

import { rigHttp } from './http.ts';
import { Rig } from './rig.ts';

const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set; start Raw Bits with bin/start.`);
  return value;
};

const rig = new Rig(need('RAWBITS_RIG_FOLDER'));
/** A line to a controller is slow; a benchmark of everything else takes it away. */
const pieceMs = Number(process.env.RAWBITS_RIG_PIECE_MS ?? 30);
const server = rigHttp(rig, need('RAWBITS_RIG_TOKEN'), pieceMs).listen(
  Number(need('RAWBITS_RIG_PORT')),
  '127.0.0.1',
  (error?: Error) => {
    process.send?.(error ? { ready: false, message: error.message } : { ready: true });
    if (error) process.exitCode = 1;
  },
);
const stop = () => {
  server.closeAllConnections();
  server.close(() => {
    rig.log.close();
    process.exit(0);
  });
};
process.once('SIGTERM', stop);
// Ctrl-C goes to everybody; under bin/start it is for the one that stops all in turn.
process.on('SIGINT', process.send ? () => {} : stop);
process.once('disconnect', stop);
