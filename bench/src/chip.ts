/**
 * Commands a second on the model of a file-system card, beside the bare cryptography that they need: as many blocks of AES
 * through node:crypto, one cached cipher, one update a block. And keys of cards a second in a batch under one key, beside
 * @noble/ciphers' CMAC call by call. Aims: at least a quarter; at least 1.5 times.
 *
 *     node bin/lib/build.mjs bench-chip && node dist/bench-chip.mjs
 */
import { createCipheriv } from 'node:crypto';
import { cmac } from '@noble/ciphers/aes.js';
import { blankFiles, FilesCard } from '@rawbits/core/chip';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { FilesHost } from '@rawbits/core/host';
import { Diversifier } from '@rawbits/core/key';
import { rounds } from './rounds.ts';

const BATCH = 2000;
const zero = (count: number) => new Uint8Array(count);

/** A card with a session of AES and a MACed file of 32 bytes that its key 0 reads. */
async function cardWithSession(): Promise<FilesCard> {
  const card = new FilesCard(blankFiles({ generation: 2, masterKey: 'aes', uid: bytesOf('04A1B2C3D4E5F6', 'uid') }));
  const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, zero) }, zero);
  const key = { kind: 'aes128', bytes: zero(16) } as const;
  await host.createApplication(1, 0x0f, 'aes128', 1);
  await host.select(1);
  await host.createData('standard', 1, 'maced', { read: 0, write: 0, both: 0, change: 0 }, 32);
  await host.authenticate('aes', 0, key);
  return card;
}

const card = await cardWithSession();
const READ = bytesOf('90BD0000070100000020000000', 'command');
/** A CMAC over nine bytes of command, and one over 32 bytes of data and a status. */
const BLOCKS = 1 + 3;

function commands(): number {
  for (let i = 0; i < BATCH; i++) {
    const answer = card.transmit(READ, zero);
    if (answer[answer.length - 1] !== 0x00) throw new Error(hexOf(answer));
  }
  return BATCH;
}

const cipher = createCipheriv('aes-128-ecb', zero(16), null).setAutoPadding(false);
const block = Buffer.alloc(16);
let sink = 0;
function bare(): number {
  for (let i = 0; i < BATCH * BLOCKS; i++) sink ^= cipher.update(block)[0]!;
  return BATCH;
}

const master = bytesOf('00112233445566778899AABBCCDDEEFF', 'key');
const data = bytesOf('04782E21801D803042F54E585020416275', 'data');
const diversifier = new Diversifier('aes128', master);
function diversified(): number {
  for (let i = 0; i < BATCH; i++) {
    data[0] = i & 255;
    sink ^= diversifier.keyFor(data)[0]!;
  }
  return BATCH;
}
const message = new Uint8Array(data.length + 1);
message[0] = 1;
message.set(data, 1);
function callByCall(): number {
  for (let i = 0; i < BATCH; i++) {
    message[1] = i & 255;
    sink ^= cmac(message, master)[0]!;
  }
  return BATCH;
}

const [ours, theirs, keys, macs] = rounds([commands, bare, diversified, callByCall]) as [
  number,
  number,
  number,
  number,
];
const say = (what: string, rate: number) => console.log(`${what}: ${(rate / 1000).toFixed(1)} thousand a second`);
say('commands on the card (MACed reads of 32 bytes)', ours);
say(`the same ${BLOCKS} blocks each through node:crypto`, theirs);
console.log(`ratio ${(ours / theirs).toFixed(2)} (aim 0.25)`);
say('keys diversified in a batch', keys);
say('CMACs call by call', macs);
console.log(`ratio ${(keys / macs).toFixed(2)} (aim 1.5); ${sink & 1}`);
