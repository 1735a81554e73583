/** The desk’s process: dials in with its token from where card readers are plugged in, and offers them as pads. */
import { parseArgs } from 'node:util';
import { Dial } from '@rawbits/api/dial';
import { WebSocket } from 'ws';
import { answeringFor } from './calls.ts';
import { Pads } from './pads.ts';

const HELP = `desk: offers the card readers that are plugged in here as pads of a site.

  bin/desk --server http://HOST:PORT [--server …]

Its token, shown once when the desk was added on the screen Site, stands in RAWBITS_DESK_TOKEN. Needs pcscd and the
package "smartcard". Ends with Ctrl-C.`;

const ended = (message: string): never => {
  console.error(`desk: ${message}`);
  process.exit(1);
};

const { values } = parseArgs({
  options: { server: { type: 'string', multiple: true }, help: { type: 'boolean', short: 'h' } },
});
if (values.help) {
  console.log(HELP);
  process.exit(0);
}
const servers = values.server ?? ended('say where Raw Bits runs: --server http://HOST:PORT');
for (const server of servers) if (!URL.canParse(server)) ended(`"${server}" is no address of a server.`);
const token = process.env.RAWBITS_DESK_TOKEN ?? ended('RAWBITS_DESK_TOKEN is not set: it has the token of this desk.');

const pads = new Pads();
try {
  await pads.look();
} catch (error) {
  const { message, hint } = error as { message: string; hint?: string };
  ended([message, hint].filter(Boolean).join(' '));
}
console.log(`desk: ${pads.offered.map(({ name }) => name).join(', ') || 'no card reader yet'}`);

let site: string | null = null;
const dial = new Dial({
  open: (address, protocol, options) => new WebSocket(address, protocol, options),
  servers: () => servers,
  token,
  kind: 'desk',
  version: '',
  answer: answeringFor(pads, () => site),
  serve: (served) => {
    site = served;
    console.log(`desk: connected; ${served === null ? 'it serves no site' : `it serves site ${served}`}`);
  },
});
/** Readers that are plugged in or out are offered, or not, from then on. */
const LOOK_MS = 3000;
let offered = JSON.stringify(pads.offered);
setInterval(() => {
  void pads
    .look()
    .then(() => {
      const now = JSON.stringify(pads.offered);
      if (now !== offered) dial.renew();
      offered = now;
    })
    .catch(() => {});
}, LOOK_MS).unref();
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => void dial.close().then(() => process.exit(0)));
