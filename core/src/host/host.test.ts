/** Host and card, written apart from one another, agree: under every authentication, in every mode, at every length. */
import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blankFiles, FilesCard } from '../chip/index.ts';
import { Aes, bytesOf, Cmac, hexOf } from '../cipher/index.ts';
import { checksum16 } from './checksums.ts';
import { type Authentication, CardRefusal, type FileMode, FilesHost, type HostKey, type Rights } from './index.ts';

const hex = (text: string) => bytesOf(text, 'test');
const random = (count: number) => new Uint8Array(randomBytes(count));
const K = '00112233445566778899AABBCCDDEEFF';
const UID = '04A1B2C3D4E5F6';

/** A blank and the host at it; `spoil` may change what goes over the line. */
function meet(
  masterKey: 'aes' | 'des' | 'tdes3' = 'aes',
  { spoil = (bytes: Uint8Array) => bytes, draws = random } = {},
) {
  const card = new FilesCard(blankFiles({ generation: 2, masterKey, uid: hex(UID), capacity: 8192 }));
  const frames: string[] = [];
  const transmit = async (apdu: Uint8Array) => {
    frames.push(hexOf(apdu));
    return spoil(card.transmit(apdu, random));
  };
  return { card, frames, host: new FilesHost({ transmit }, draws) };
}

const KINDS = [
  ['oldest', 'tdes2', 16],
  ['iso', 'tdes2', 16],
  ['iso', 'tdes3', 24],
  ['aes', 'aes128', 16],
  ['newer', 'aes128', 16],
] as const satisfies [Authentication, HostKey['kind'], number][];

const RIGHTS: Rights = { read: 1, write: 1, both: 1, change: 0 };
const FREE: Rights = { read: 'free', write: 'free', both: 'free', change: 'free' };
const key = (kind: HostKey['kind'], bytes: Uint8Array, version = 3): HostKey => ({ kind, bytes, version });

it('a card that asks for more than there is to send is refused, and not asked for ever', async () => {
  const host = new FilesHost({ transmit: async () => Uint8Array.of(0x91, 0xaf) }, (count) => new Uint8Array(count));
  await expect(host.freeMemory()).rejects.toThrow(CardRefusal);
  const endless = Uint8Array.from([...new Uint8Array(50), 0x91, 0xaf]);
  const talker = new FilesHost({ transmit: async () => endless }, (count) => new Uint8Array(count));
  await expect(talker.freeMemory()).rejects.toThrow(CardRefusal);
});

describe('after 0A', () => {
  it('all of a file comes whole where its last byte passes for half its checksum', async () => {
    const { host } = meet('des');
    const zero = key('tdes2', new Uint8Array(16), 0);
    await host.createApplication(0x123456, 0x0f, 'tdes2', 2);
    await host.select(0x123456);
    await host.authenticate('oldest', 0, zero);
    await host.createData('standard', 1, 'enciphered', { read: 0, write: 0, both: 0, change: 0 }, 300);
    await host.createRecords('linear', 2, 'enciphered', { read: 0, write: 0, both: 0, change: 0 }, 20, 3);
    const ambiguous = (length: number) => {
      const rest = random(length - 1);
      return Uint8Array.of(...rest, checksum16(rest)[0]!);
    };
    const [data, record] = [ambiguous(300), ambiguous(20)];
    await host.write(1, 0, data, 'enciphered');
    await host.writeRecord(2, 0, record, 'enciphered');
    await host.commit();
    expect(hexOf(await host.read(1, 0, 0, 'enciphered'))).toBe(hexOf(data));
    expect(hexOf(await host.read(1, 7, 0, 'enciphered'))).toBe(hexOf(data.subarray(7)));
    expect(hexOf(await host.readRecords(2, 0, 0, 20, 'enciphered'))).toBe(hexOf(record));
  });
});

describe.each(KINDS)('%s under %s', (how, kind, length) => {
  const zero = key(kind, new Uint8Array(length), 0);
  const [first, second] = [key(kind, random(length)), key(kind, random(length))];

  async function application() {
    const met = meet();
    await met.host.createApplication(0x123456, 0x0f, kind, 3);
    await met.host.select(0x123456);
    await met.host.authenticate(how, 0, zero);
    await met.host.changeKey(1, first, zero);
    await met.host.changeKey(0, second);
    await met.host.authenticate(how, 0, second);
    return met;
  }

  it('keys are changed, and the old ones are not taken any more', async () => {
    const { host } = await application();
    await expect(host.authenticate(how, 1, zero)).rejects.toThrow(CardRefusal);
    await host.authenticate(how, 1, first);
    expect(hexOf(await host.uid())).toBe(UID);
    if (kind === 'aes128') expect(await host.keyVersion(1)).toBe(3);
  });

  it.each(['plain', 'maced', 'enciphered'] as FileMode[])('files of every kind, %s, at any length', async (mode) => {
    const { host } = await application();
    await host.createData('standard', 1, mode, RIGHTS, 300);
    await host.createData('backup', 2, mode, RIGHTS, 64);
    await host.createValue(3, mode, RIGHTS, { lower: -100, upper: 1000, value: 10, limitedCredit: true });
    await host.createRecords('cyclic', 4, mode, RIGHTS, 20, 3);
    await host.createData('standard', 5, mode, FREE, 40);
    await host.authenticate(how, 1, first);
    const placed = fc
      .integer({ min: 1, max: 300 })
      .chain((size) =>
        fc.tuple(fc.integer({ min: 0, max: 300 - size }), fc.uint8Array({ minLength: size, maxLength: size })),
      );
    await fc.assert(
      fc.asyncProperty(placed, async ([offset, data]) => {
        await host.write(1, offset, data, mode);
        expect(hexOf(await host.read(1, offset, data.length, mode))).toBe(hexOf(data));
      }),
      { numRuns: 25 },
    );
    expect(await host.read(1, 0, 0, mode)).toHaveLength(300);
    await host.write(2, 3, hex('C0FFEE'), mode);
    expect(hexOf(await host.read(2, 3, 3, mode))).toBe('000000');
    await host.commit();
    expect(hexOf(await host.read(2, 3, 3, mode))).toBe('C0FFEE');
    await host.changeValue('debit', 3, 60, mode);
    await host.commit();
    expect(await host.value(3, mode)).toBe(-50);
    await host.changeValue('limited credit', 3, 60, mode);
    await host.changeValue('credit', 3, 5, mode);
    await host.commit();
    expect(await host.value(3, mode)).toBe(15);
    for (const byte of [1, 2, 3]) {
      await host.writeRecord(4, 0, new Uint8Array(20).fill(byte), mode);
      await host.commit();
    }
    expect([...(await host.readRecords(4, 0, 0, 20, mode))].filter((_, i) => i % 20 === 0)).toEqual([2, 3]);
    // What everybody may goes plain, whatever the file says.
    await host.write(5, 0, hex('AA'), 'plain');
    expect(hexOf(await host.read(5, 0, 1, 'plain'))).toBe('AA');
    expect(await host.files()).toEqual([1, 2, 3, 4, 5]);
    await host.deleteFile(5);
  });

  it('a bit changed on the way is found by the card or by the host, wherever it is', async () => {
    if (how === 'oldest') return; // Its management commands carry no MAC: nothing is promised there.
    let flip = -1;
    const spoil = (answer: Uint8Array) => {
      if (flip < 0 || answer.length <= 2) return answer;
      const changed = new Uint8Array(answer);
      changed[(flip >> 3) % (answer.length - 2)]! ^= 1 << (flip & 7);
      return changed;
    };
    const { host } = meet('aes', { spoil });
    await host.createApplication(0x123456, 0x0f, kind, 3);
    await host.select(0x123456);
    await host.createData('standard', 1, 'enciphered', { ...RIGHTS, read: 0, write: 0, both: 0 }, 40);
    for (flip = 0; flip < 400; flip += 7) {
      const at = flip;
      flip = -1;
      await host.authenticate(how, 0, zero);
      await host.write(1, 0, random(40), 'enciphered');
      flip = at;
      await expect(host.read(1, 0, 40, 'enciphered')).rejects.toThrow(/not what the card sent/);
    }
  });
});

describe('the newer authentication again within its session', () => {
  it('another key goes on with the same identifier and counter', async () => {
    const { host } = meet();
    const zero = key('aes128', new Uint8Array(16), 0);
    await host.createApplication(1, 0x0f, 'aes128', 2);
    await host.select(1);
    await host.authenticate('newer', 0, zero);
    await host.createData('standard', 1, 'enciphered', { read: 1, write: 1, both: 1, change: 0 }, 32);
    await host.authenticate('newer', 1, zero);
    await host.write(1, 0, hex('0102030405'), 'enciphered');
    expect(hexOf(await host.read(1, 0, 5, 'enciphered'))).toBe('0102030405');
  });
});

describe('what the host sends (CHIPS, check values)', () => {
  const A8 = hex('0001020304050607');
  const A16 = hex('000102030405060708090A0B0C0D0E0F');
  it.each([
    ['oldest', 'des', 'tdes2', K, A8, '1011121314151617', '75C8D79E36908AF1C8A7A30CDF541E7F'],
    ['iso', 'des', 'tdes2', K, A8, '1011121314151617', '0CEE67BE9291586A9075433A225C74FC'],
    [
      'aes',
      'aes',
      'aes128',
      K,
      A16,
      '101112131415161718191A1B1C1D1E1F',
      '719AC48197C387BB331B8C818CD548F63E5F4F94C30FDD82AD07BC86AB3633F0',
    ],
  ] as const)('%s: the token under K', async (how, masterKey, kind, bytes, own, theirs, token) => {
    const card = new FilesCard(blankFiles({ generation: 2, masterKey, uid: hex(UID) }));
    card.memory.card.keys[0]!.bytes = hex(bytes);
    const frames: string[] = [];
    const transmit = async (apdu: Uint8Array) => {
      frames.push(hexOf(apdu));
      return card.transmit(apdu, () => hex(theirs));
    };
    const host = new FilesHost({ transmit }, () => own);
    await host.authenticate(how, 0, { kind, bytes: hex(bytes) });
    expect(frames[1]).toContain(token);
    // A key of the card's own level is changed to another kind and back.
    await host.changeKey(0, key('tdes3', random(24)), undefined, true);
    expect(card.memory.card.keyKind).toBe('tdes3');
  });

  it('a card that does not know the key is told from one that refuses', async () => {
    const { host } = meet('aes');
    await expect(host.authenticate('aes', 0, key('aes128', random(16)))).rejects.toMatchObject({ status: 0xae });
    const liar = new FilesHost(
      { transmit: async (apdu) => (apdu[1] === 0xaa ? hex(`${'00'.repeat(16)}91AF`) : hex(`${'00'.repeat(16)}9100`)) },
      random,
    );
    await expect(liar.authenticate('aes', 0, key('aes128', random(16)))).rejects.toThrow('does not know this key');
    await expect(host.deleteApplication(7)).rejects.toThrow('The card has no such application. (status A0)');
  });
});

describe('the newer authentication: the figures of NXP AN12196 (DOMAIN §4, CHIPS)', () => {
  const zero = key('aes128', new Uint8Array(16), 0);
  /** An application of three AES keys of zeros; card and host draw these, one after the other. */
  async function drawing(card: string[], host: string[]) {
    const [cards, hosts] = [card.map(hex), host.map(hex)];
    const real = new FilesCard(blankFiles({ generation: 2, masterKey: 'aes', uid: hex(UID) }));
    const frames: string[] = [];
    const transmit = async (apdu: Uint8Array) => {
      const answer = real.transmit(apdu, () => cards.shift()!);
      frames.push(hexOf(apdu), hexOf(answer));
      return answer;
    };
    const driver = new FilesHost({ transmit }, () => hosts.shift()!);
    await driver.createApplication(1, 0x0f, 'aes128', 3);
    await driver.select(1);
    return { real, driver, frames };
  }

  it('71: the session keys, seen by the MAC that they make', async () => {
    const { driver, frames } = await drawing(
      ['B9E2FC789B64BF237CCCAA20EC7E6E48', '7614281A'],
      ['13C5DB8A5930439FC3DEF9A4C675360F'],
    );
    await driver.authenticate('newer', 0, zero);
    expect(await driver.keyVersion(0)).toBe(0);
    // GetKeyVersion at counter 0, and its answer at counter 1, under 4C6626F5…7FC7.
    const mac = new Cmac(new Aes(hex('4C6626F5E72EA694202139295C7A7FC7')));
    const cut = (message: string) => hexOf(mac.of(hex(message)).filter((_, i) => i % 2 === 1));
    expect(frames.at(-2)).toBe(`906400000900${cut('6400007614281A00')}00`);
    expect(frames.at(-1)).toBe(`00${cut('0001007614281A00')}9100`);
  });

  it('77 within it, and a ChangeKey at counter 2: byte for byte, by the host and to the card', async () => {
    const { driver, real, frames } = await drawing(
      ['00'.repeat(16), '7614281A', '6924E8D09722659A2E7DEC68E66312B8'],
      ['11'.repeat(16), '60BE759EDA560250AC57CDDC11743CF6'],
    );
    await driver.authenticate('newer', 0, zero);
    await driver.keyVersion(0);
    await driver.keyVersion(0);
    await driver.authenticate('newer', 0, zero);
    expect(frames.at(-1)).toBe('B888349C24B315EAB5B589E279C8263E9100');
    const next = key('aes128', hex('F3847D627727ED3BC9C4CC050489B966'), 1);
    await driver.changeKey(2, next, zero);
    const sealed = '2CF362B7BF4311FF3BE1DAA295E8C68DE09050560D19B9E16C2393AE9CD1FAC75D0CE20BCD1D06E6';
    expect(frames.at(-2)).toBe(`90C400002902${sealed}00`);
    expect(hexOf(real.level.keys[2]!.bytes)).toBe('F3847D627727ED3BC9C4CC050489B966');
    expect(real.level.keys[2]!.version).toBe(1);
  });
});
