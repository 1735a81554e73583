/**
 * Whole cards a second on the chip model (host and card, from blank to read back), beside the bare cryptography that they need: as
 * many blocks of AES through node:crypto, one cached cipher, one update a block. Aim: at least a quarter. The heap after a
 * hundred cards and after a thousand. And reach over 8 applications, 28 files and 40 keys: aim under a second.
 *
 *     node bin/lib/build.mjs bench-encode && node --expose-gc dist/bench-encode.mjs
 */
import { createCipheriv } from 'node:crypto';
import { blankFiles, FilesCard } from '@rawbits/core/chip';
import { Aes } from '@rawbits/core/cipher';
import { FilesHost } from '@rawbits/core/host';
import { bringCard, compareCard, type Plan, planSchema, reach, ringOf, standInKeys } from '@rawbits/core/plan';

const UID = Uint8Array.of(4, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6);
let drawn = 1;
const draw = (count: number) =>
  Uint8Array.from({ length: count }, () => (drawn = (drawn * 48_271) % 0x7fffffff) & 0xff);
const rights = { read: 1, write: 0, both: 'never', change: 0 } as const;

const PLAN: Plan = planSchema.parse({
  schema: 'rawbits/plan@1',
  card: { key: 'card' },
  applications: [
    {
      id: '5A1001',
      keys: ['master', 'door'],
      files: [
        {
          kind: 'standard',
          number: 1,
          size: 64,
          rights,
          fields: [
            { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
            { name: 'holder', length: 40, content: { is: 'text', of: 'holder' } },
          ],
        },
      ],
    },
    {
      id: '5A1002',
      keys: ['log'],
      files: [{ kind: 'cyclic', number: 0, size: 32, records: 8, rights: { ...rights, read: 0 } }],
    },
  ],
});
const atHand = new Map<string, Uint8Array>();
const standIn = standInKeys(PLAN);
const ring = ringOf(PLAN, (name) => {
  const bytes = atHand.get(name) ?? standIn(name);
  atHand.set(name, bytes);
  return bytes;
});

async function oneCard(number: number): Promise<void> {
  const card = new FilesCard(blankFiles({ generation: 2, masterKey: 'aes', uid: UID }));
  const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
  const about = {
    plan: PLAN,
    ring,
    known: { values: { number: String(number), holder: 'Ragna Holm' } },
    selected: UID,
  };
  await bringCard(host, about);
  const { steps } = await compareCard(host, about);
  if (steps.length > 0) throw new Error('a card is not as it was written');
}

/** Blocks that the ciphers of host and card go through for one card. */
async function blocksOfOne(): Promise<number> {
  const { encrypt, decrypt } = Aes.prototype;
  let blocks = 0;
  Aes.prototype.encrypt = function (...args) {
    blocks++;
    return encrypt.apply(this, args);
  };
  Aes.prototype.decrypt = function (...args) {
    blocks++;
    return decrypt.apply(this, args);
  };
  await oneCard(1);
  Object.assign(Aes.prototype, { encrypt, decrypt });
  return blocks;
}

const BATCH = 20;
const blocks = await blocksOfOne();
const cipher = createCipheriv('aes-128-ecb', new Uint8Array(16), null).setAutoPadding(false);
const block = Buffer.alloc(16);
let sink = 0;
const bare = () => {
  for (let i = 0; i < BATCH * blocks; i++) sink ^= cipher.update(block)[0]!;
  return BATCH;
};
const whole = async () => {
  for (let i = 0; i < BATCH; i++) await oneCard(i);
  return BATCH;
};

const ROUNDS = 25;
let [ours, theirs] = [0, 0];
for (let i = 0; i < ROUNDS; i++) {
  let began = performance.now();
  await whole();
  ours += performance.now() - began;
  began = performance.now();
  bare();
  theirs += performance.now() - began;
}
const rate = (ms: number) => (1000 * BATCH * ROUNDS) / ms;
console.log(`whole cards, ${blocks} blocks of AES each: ${rate(ours).toFixed(0)} a second`);
console.log(`their bare cryptography: ${rate(theirs).toFixed(0)} a second`);
console.log(`ratio: ${(theirs / ours).toFixed(2)} (aim 0.25)`);

const heap = () => {
  globalThis.gc?.();
  return process.memoryUsage().heapUsed / 1e6;
};
for (let i = 0; i < 100; i++) await oneCard(i);
const early = heap();
for (let i = 0; i < 900; i++) await oneCard(i);
console.log(`heap after 100 cards ${early.toFixed(1)} MB, after 1,000 ${heap().toFixed(1)} MB`);

/** 8 applications of 5 keys each, 28 files among them. */
const LARGE: Plan = planSchema.parse({
  schema: 'rawbits/plan@1',
  capacity: 8192,
  card: { key: 'card' },
  applications: Array.from({ length: 8 }, (_, a) => ({
    id: (0x5a0001 + a).toString(16),
    keys: Array.from({ length: 5 }, (_, k) => (a === 7 && k === 4 ? null : `key ${a}.${k}`)),
    settings: { changeKeys: a % 2 === 0 ? 'itself' : 1 },
    files: Array.from({ length: a < 4 ? 4 : 3 }, (_, number) => ({
      kind: 'standard',
      number,
      size: 32,
      rights: { read: (number + 1) % 5, write: (number + 2) % 5, both: 'never', change: (number + 3) % 5 },
    })),
  })),
});
const half = new Set(
  LARGE.applications.flatMap(({ keys }) => keys.filter((name, i) => name !== null && i % 2 === 0) as string[]),
);
const all = new Set(LARGE.applications.flatMap(({ keys }) => keys.filter((name) => name !== null)));
for (const [what, keys] of [
  ['nobody’s keys', new Set<string>()],
  ['half of the keys', half],
  ['all of the keys', all],
] as const) {
  const times = Array.from({ length: 5 }, () => {
    const began = performance.now();
    reach(LARGE, keys);
    return performance.now() - began;
  }).sort((a, b) => a - b);
  console.log(`reach with ${what} (8 applications, 28 files, 40 keys): ${times[2]!.toFixed(0)} ms (aim 1000)`);
}
void sink;
