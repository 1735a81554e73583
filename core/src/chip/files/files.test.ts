/** File-system cards: every figure of CHIPS and of DOMAIN §4, then rights, transactions and what is refused. */
import { describe, expect, it } from 'vitest';
import { bytesOf, hexOf } from '../../cipher/index.ts';
import { blankFiles, type CardKeyKind, FilesCard, type Generation } from './index.ts';

const hex = (text: string) => bytesOf(text, 'test');
const UID = '04112233445566';
const K = '00112233445566778899AABBCCDDEEFF';

/** Draws these bytes, one draw after the other. */
const drawing = (...draws: string[]) => {
  const rest = draws.map(hex);
  return (count: number) => {
    const next = rest.shift() ?? new Uint8Array(count);
    if (next.length !== count) throw new Error(`${count} bytes are drawn, ${next.length} were given`);
    return next;
  };
};

function cardOf(masterKey: CardKeyKind = 'aes', generation: Generation = 2, key?: string) {
  const memory = blankFiles({ generation, masterKey, uid: hex(UID) });
  if (key) memory.card.keys[0]!.bytes = hex(key);
  const card = new FilesCard(memory);
  /** Native command in, native answer out. */
  const say = (text: string, random = drawing()) => hexOf(card.transmit(hex(text), random));
  return { card, memory, say };
}

describe('authentication (CHIPS, check values; libfreefare as the host)', () => {
  const B8 = '1011121314151617';
  const B16 = `${B8}18191A1B1C1D1E1F`;

  it('0A under a two-key key, and its messages', () => {
    const { say } = cardOf('des', 2, K);
    expect(say('0A00', drawing(B8))).toBe('AFC56BED7CA67AEF09');
    expect(say('AF75C8D79E36908AF1C8A7A30CDF541E7F')).toBe('0024A6BB8658515E3B');
    expect(say('6400')).toBe('0055');
  });

  it('1A under a two-key key', () => {
    const { say } = cardOf('des', 2, K);
    expect(say('1A00', drawing(B8))).toBe('AFC56BED7CA67AEF09');
    expect(say('AF0CEE67BE9291586A9075433A225C74FC').slice(0, 2)).toBe('00');
    expect(say('6400')).toBe('0055C75F54BE2C913E5A');
  });

  it('1A under a three-key key: what the card sends', () => {
    const { say, card } = cardOf('tdes3', 2, `${K}0102030405060708`);
    expect(say('1A00', drawing(B16))).toBe('AF89B673FF49FB350162509F1E557C3E36');
    // The host's token is not in the table: it is made by the host's side; the message is.
    expect(card.session).toBeUndefined();
  });

  it('AA, and a version asked under it', () => {
    const { say } = cardOf('aes', 2, K);
    say('AA00', drawing(B16));
    expect(say('AF719AC48197C387BB331B8C818CD548F63E5F4F94C30FDD82AD07BC86AB3633F0').slice(0, 2)).toBe('00');
    expect(say('6400')).toBe('0000DD9A9AE86BF1D676');
  });

  it('ChangeKey under AA, another key, and a write of a MACed file', () => {
    const { say, card } = withApplication();
    say('AA00', drawing(B16));
    say('AF719AC48197C387BB331B8C818CD548F63E5F4F94C30FDD82AD07BC86AB3633F0');
    expect(say('6400')).toBe('0000DD9A9AE86BF1D676');
    expect(say('C40141D96CEAC10F2D4398C6D29A856871768552797172152EC635A83B3BE7A856C4')).toBe('00C7AEC1F74020AE6E');
    expect(hexOf(card.level.keys[1]!.bytes)).toMatch(/^A0A1/);
    expect(card.level.keys[1]!.version).toBe(7);
  });

  /** An application of two AES keys, K and zeros, with file 3 enciphered. */
  function withApplication() {
    const all = cardOf('aes', 2);
    const { say, card } = all;
    expect(say('CA0100000B82')).toBe('00');
    expect(say('5A010000')).toBe('00');
    card.level.keys[0]!.bytes = hex(K);
    card.level.settings = 0x0f;
    return all;
  }
});

describe('a blank', () => {
  it.each([
    [1, '04010101001805'],
    [2, '04010112001805'],
    [3, '04010133001805'],
  ] as const)('of generation %i tells what it is, in three frames, native and wrapped', (generation, part) => {
    const { say } = cardOf('aes', generation);
    expect([say('60'), say('AF'), say('AF').slice(0, 16)]).toEqual([`AF${part}`, `AF${part}`, `00${UID}`]);
    expect([say('9060000000'), say('90AF000000'), say('90AF000000').slice(-4)]).toEqual([
      `${part}91AF`,
      `${part}91AF`,
      '9100',
    ]);
  });

  it('knows no newer authentication in the first generation', () => {
    expect(cardOf('aes', 1).say('710000')).toBe('1C');
    expect(
      cardOf('aes', 3)
        .say('710000', drawing('00'.repeat(16)))
        .slice(0, 2),
    ).toBe('AF');
  });

  it.each([
    ['FF', '1C'],
    ['AF', '1C'],
    ['CA010000', '7E'],
    ['CA000000' + '0F81', '9E'],
    ['CA0100000F' + 'C1', '9E'],
    ['CA0100000F' + '8F', '9E'],
    ['5A999999', 'A0'],
    ['DA999999', 'A0'],
    ['AA01', '40'],
    ['0A00', 'AE'],
    ['1A00', 'AE'],
    ['FC', 'AE'],
    ['51', 'AE'],
    ['540F', 'AE'],
    ['C40000', 'AE'],
    ['CD0100EEEE200000', '9D'],
    ['C7', '9D'],
    ['90CA0000FF', '6700'],
    ['00A40400', '6E00'],
    [`3D${'00'.repeat(60)}`, '7E'],
    [`903D000037${'00'.repeat(55)}00`, '917E'],
  ])('%s is answered %s', (command, status) => {
    expect(cardOf().say(command)).toBe(status);
  });
});

describe('applications and files without a session', () => {
  const open = () => {
    const all = cardOf();
    all.say('CA0100000F81');
    all.say('5A010000');
    return all;
  };

  it('applications are listed, nineteen a frame, told apart, and run out', () => {
    const { say } = cardOf('aes', 1);
    for (let i = 1; i <= 28; i++) expect(say(`CA${i.toString(16).padStart(2, '0')}00000F81`)).toBe('00');
    expect(say('CA0100000F81')).toBe('DE');
    expect(say('CAFF00000F81')).toBe('CE');
    expect([say('6A').length, say('AF').length]).toEqual([2 + 19 * 6, 2 + 9 * 6]);
  });

  it('names and file ids are told a frame an application', () => {
    const { say } = cardOf();
    expect(say(`CA0100000F2110E1${hexOf(new TextEncoder().encode('GEAR'))}`)).toBe('00');
    expect(say('CA0200000F21' + '11E1')).toBe('00');
    expect(say('CA0300000F21' + '10E1')).toBe('DE');
    expect([say('6D'), say('AF')]).toEqual(['AF010000' + '10E1' + '47454152', '00020000' + '11E1']);
  });

  it('an identifier and a name stand without bit 20, which is about the files alone (libfreefare’s tests on real cards)', () => {
    const { say } = cardOf();
    expect(say(`CA0100000F0110E1${hexOf(new TextEncoder().encode('GEAR'))}`)).toBe('00');
    expect(say('6D')).toBe('00010000' + '10E1' + '47454152');
    say('5A010000');
    expect(say('CD010001EEEE000800')).toBe('7E');
    expect(say('CD0100EEEE080000')).toBe('00');
  });

  it('a standard file is written at once, in frames where it has to be', () => {
    const { say } = open();
    expect(say('CD0100EEEE800000')).toBe('00');
    expect(say('CD0100EEEE800000')).toBe('DE');
    expect(say(`3D01000000500000${'AB'.repeat(52)}`)).toBe('AF');
    expect(say(`AF${'CD'.repeat(28)}`)).toBe('00');
    expect(say('BD01000000000000')).toBe(`AF${'AB'.repeat(52)}${'CD'.repeat(7)}`);
    expect(say('AF')).toBe(`AF${'CD'.repeat(21)}${'00'.repeat(38)}`);
    expect(say('BD01000000000000').slice(0, 2)).toBe('CA');
    expect(say('BD01800000010000')).toBe('BE');
    expect(say('BD017F0000020000')).toBe('BE');
    expect(say('BD09000000010000')).toBe('F0');
    expect(say('F501')).toBe('000000EEEE800000');
    expect(say('6F')).toBe('0001');
    expect([say('DF01'), say('F501')]).toEqual(['00', 'F0']);
  });

  it('a backup file is written when it is committed, not when the field goes before', () => {
    const { say, card } = open();
    say('CB0200EEEE200000');
    expect(say('3D02000000020000BEEF')).toBe('00');
    expect(say('BD02000000020000')).toBe('000000');
    expect([say('A7'), say('C7')]).toEqual(['00', '0C']);
    say('3D02000000020000BEEF');
    card.powerOff();
    say('5A010000');
    expect(say('BD02000000020000')).toBe('000000');
    say('3D02000000020000BEEF');
    expect([say('C7'), say('BD02000000020000')]).toEqual(['00', '00BEEF']);
    // A command that fails drops what is pending.
    say('3D02000000020000DEAD');
    expect(say('BD02FF0000010000')).toBe('BE');
    expect(say('C7')).toBe('0C');
  });

  it('a value is credited and debited within its limits, and what was debited may be credited back once', () => {
    const { say } = open();
    // From 0 to 100, begins at 10, limited credit on.
    expect(say('CC0300EEEE' + '00000000' + '64000000' + '0A000000' + '01')).toBe('00');
    const value = () => say('6C03');
    expect(say('0C0305000000')).toBe('00');
    expect(value()).toBe('000A000000');
    expect([say('C7'), value()]).toEqual(['00', '000F000000']);
    expect(say('DC0310000000')).toBe('BE');
    expect(say('0C0356000000')).toBe('BE');
    expect(say('0C03FFFFFFFF')).toBe('9E');
    expect([say('DC0304000000'), say('DC0303000000'), say('C7'), value()]).toEqual(['00', '00', '00', '0008000000']);
    expect(say('1C0308000000')).toBe('BE');
    expect([say('1C0306000000'), say('C7'), value()]).toEqual(['00', '00', '000E000000']);
    expect(say('1C0301000000')).toBe('BE');
    expect(say('F503')).toBe('000200EEEE' + '00000000' + '64000000' + '00000000' + '01');
  });

  it('records: the newest is number 0, several writes fill one, a cyclic file keeps one fewer than it has room for', () => {
    const { say } = open();
    expect(say('C00400EEEE' + '040000' + '030000')).toBe('00');
    for (const byte of ['11', '22', '33']) {
      expect(say(`3B04000000010000${byte}`)).toBe('00');
      expect(say(`3B04010000010000${byte}`)).toBe('00');
      expect(say('C7')).toBe('00');
    }
    expect(say('BB04000000000000')).toBe('00' + '22220000' + '33330000');
    expect(say('BB04010000010000')).toBe('00' + '22220000');
    expect(say('BB04020000010000')).toBe('BE');
    expect([say('EB04'), say('3B0400000001000044')]).toEqual(['00', '9D']);
    expect([say('EB04'), say('C7'), say('BB04000000000000')]).toEqual(['00', '00', 'BE']);
    // A linear one is full when it is full.
    say('C10500EEEE' + '020000' + '010000');
    say('3B05000000020000ABCD');
    say('C7');
    expect(say('3B05000000020000ABCD')).toBe('BE');
    expect(say('F505')).toBe('000300EEEE' + '020000' + '010000' + '010000');
  });

  it('memory runs out, and comes back', () => {
    const { say, memory } = open();
    expect(say('CD0100EEEE00FF00')).toBe('0E');
    expect(say('CD0100EEEEFFFFFF')).toBe('0E');
    const before = say('6E');
    say('CD0100EEEE800000');
    expect(say('6E')).not.toBe(before);
    say('DF01');
    expect(say('6E')).toBe(before);
    expect(memory.applications).toHaveLength(1);
  });

  it('rights that nobody holds, and rights of a key', () => {
    const { say } = open();
    say('CD0100FFFF200000');
    expect(say('BD01000000010000')).toBe('9D');
    say('CD02000012200000'.replace('0012', '0000'));
    expect(say('BD02000000010000')).toBe('AE');
    expect(say('6C01')).toBe('9E');
    expect(say('CD1F03EEEE000000')).toBe('9E');
    expect(say('CD2000EEEE010000')).toBe('9E');
    expect(say('CD0302EEEE010000')).toBe('9E');
  });
});
