/**
 * The rig's process. It dials in to the servers, goes on when they restart, and keeps what its controllers were loaded
 * with.
 */

import { readFileSync } from 'node:fs';
import { type Clock, machineClock, ShiftedClock } from './clock/clock.ts';
import { dialIn } from './wire/calls.ts';
import { Rig } from './world/rig.ts';

const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set; start Raw Bits with bin/start.`);
  return value;
};

/** The machine's; a trial may set it ahead, by as many milliseconds as stand in a file. */
function clock(): Clock {
  const file = process.env.RAWBITS_RIG_CLOCK_FILE;
  return file ? new ShiftedClock(() => Number(readFileSync(file, 'utf8'))) : machineClock;
}

try {
  const rig = new Rig(need('RAWBITS_RIG_FOLDER'), clock());
  const servers = need('RAWBITS_SERVERS').split(',');
  const dial = dialIn(rig, {
    servers: () => servers,
    token: need('RAWBITS_RIG_TOKEN'),
    version: process.env.RAWBITS_VERSION ?? '',
    // A line to a controller is slow; a benchmark of everything else takes it away.
    pieceMs: Number(process.env.RAWBITS_RIG_PIECE_MS ?? 30),
    connected: () => process.send?.({ connected: true }),
  });
  process.send?.({ ready: true });
  const stop = () => {
    void dial.close().then(() => {
      rig.log.close();
      process.exit(0);
    });
  };
  process.once('SIGTERM', stop);
  // Ctrl-C goes to everybody; under bin/start it is for the one that stops all in turn.
  process.on('SIGINT', process.send ? () => {} : stop);
  process.once('disconnect', stop);
} catch (error) {
  process.send?.({ ready: false, message: (error as Error).message });
  if (!process.send) throw error;
  process.exitCode = 1;
}
