import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { catalogued } from '@rawbits/core/catalogue';
import { writeJson } from '@rawbits/core/format';
import { describe, expect, it } from 'vitest';
import { HELP } from './help.ts';

const program = join(import.meta.dirname, '../../bin/rawbits');

/** Runs the real command on lines; gives its answers parsed. */
function run(command: string, ...lines: unknown[]) {
  const input = lines.map((line) => (typeof line === 'string' ? line : JSON.stringify(line))).join('\n');
  const { stdout, stderr, status } = spawnSync(program, [command], { input, encoding: 'utf8' });
  return {
    answers: stdout
      .split('\n')
      .filter(Boolean)
      .map((line) => JSON.parse(line)),
    stdout,
    stderr,
    status,
  };
}

const OPEN_26 = '26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25';
// Facility code 71 and number 9034 in the open 26-bit format; bits worked out by hand (SIA AC-01-1996.10).
const BITS = '10100011100100011010010100';

describe('rawbits', () => {
  it('encode', () => {
    const values = { facility: '71', number: '9034' };
    const wanted = { bits: BITS, hex: '28E4694', length: 26 };
    expect(run('encode', { format: '26-8-16', values }, { layout: OPEN_26, values }).answers).toEqual([wanted, wanted]);
  });

  it('decode, from bits and from hex, full fits first', () => {
    const { answers } = run(
      'decode',
      { bits: BITS },
      { hex: '28E4694', length: 26 },
      { hex: 'A391A50', length: 26, justified: 'left', formats: ['26-8-16'] },
    );
    expect(answers[1]).toEqual(answers[0]);
    expect(answers[2]).toMatchObject({
      length: 26,
      fits: [
        {
          format: '26-8-16',
          fit: 'full',
          values: { facility: '71', number: '9034' },
          parity: [
            { at: 1, holds: true },
            { at: 26, holds: true },
          ],
        },
      ],
    });
    const mixed = run('decode', { bits: BITS.replace(/.$/, '1'), formats: ['37-0-35', '26-8-16'] }).answers[0];
    expect(mixed.fits.map((f: { fit: string }) => f.fit)).toEqual(['part', 'none']);
  });

  it('format, with masks one digit a bit', () => {
    const [answer] = run('format', { layout: OPEN_26 }).answers;
    expect(answer).toMatchObject({
      layout: OPEN_26,
      problems: [],
      masks: { number: '00000000011111111111111110', 'parity@1': '01111111111110000000000000' },
    });
    expect(run('format', { format: answer.format }).answers[0]).toEqual(answer);
    expect(run('format', { layout: '8 | 1-4 number | 4-8 facility' }).answers[0].problems[0]).toMatchObject({
      code: 'overlap',
      severity: 'error',
    });
  });

  it('format also gives the settings sheet', () => {
    const { settings } = run('format', { layout: OPEN_26, offset: '100' }).answers[0];
    expect(settings).toContainEqual({
      item: 'number',
      setting: 'start, from the first bit, counted from 0',
      value: '9',
    });
    expect(settings.find((s: { setting: string }) => s.setting.startsWith('offset'))).toMatchObject({ value: '100' });
  });

  it('translate: what leads from one device to the other, simplest first', () => {
    // A 4-byte UID made up, shown as hex and as the decimal of its reversed bytes (DOMAIN §1, common practice).
    const pairs = [
      { a: '04A23B1C', b: '473670148' },
      { a: '1D2C4F90', b: '2421107741' },
    ];
    const [answer] = run('translate', { pairs }).answers;
    expect(answer.explanations[0]).toMatchObject({
      words: 'hex of 32 bits, bytes reversed, written in decimal',
      direction: 'a to b',
      unexplained: [],
    });
    expect(run('translate', { pairs: [] }, { pairs: [{ a: 'zz', b: '1' }] }).answers.map((a) => a.error.code)).toEqual([
      'pairs-none',
      'shown-unreadable',
    ]);
  });

  it('read: every way a text may be meant, led by the print and a length in use', () => {
    const [hex, print, bare, rounded] = run(
      'read',
      { text: '028E4694', lengths: [26, 37], print: '9034' },
      { text: '71:9034' },
      { text: '028E4694' },
      { text: '1.18406E+5' },
    ).answers;
    expect(hex.readings[0]).toMatchObject({ notation: 'hex', length: 26, why: 'If the read has 26 bits.' });
    expect(hex.readings[0].fits[0]).toMatchObject({
      format: '26-8-16',
      fit: 'full',
      values: { facility: '71', number: '9034' },
      print: 'agrees',
    });
    expect(
      hex.readings.slice(1).every((r: { fits: { print: string }[] }) => r.fits.every((f) => f.print !== 'agrees')),
    ).toBe(true);
    expect(print.readings[0]).toMatchObject({ notation: 'facility-number', length: 24 });
    expect(bare.readings[0]).toMatchObject({ notation: 'uid', length: 32 });
    expect(rounded.error).toMatchObject({ code: 'number-rounded', where: { column: 1 } });
  });

  it('identify: what a few cards prove', () => {
    const numbers = ['40', '41', '42', '44', '43'];
    const encoded = run(
      'encode',
      ...numbers.map((number) => ({ format: '26-8-16', values: { facility: '71', number } })),
    );
    const specimens = encoded.answers.map(({ bits }, i) => ({ bits, printed: numbers[i] }));
    const trimmed = specimens.map((one) => ({ ...one, bits: one.bits.replace(/^0+/, ''), lengthKnown: false }));
    const [answer, none, bad, short] = run(
      'identify',
      { specimens, predict: ['45', '600'] },
      { specimens: [] },
      { specimens: [{ bits: '01', printed: 'x?' }] },
      { specimens: trimmed, predict: ['45'] },
    ).answers;
    const truth = run('encode', { format: '26-8-16', values: { facility: '71', number: '45' } }).answers[0].bits;
    expect(answer).toMatchObject({ length: 26, checks: 1, suspects: [] });
    expect(answer.bits[24]).toMatchObject({ at: 25, standing: 'proven', xorOf: [0], plus: 0 });
    expect(answer.predictions[0]).toMatchObject({ printed: '45', bits: truth, standing: 'proven' });
    expect(answer.known[0]).toMatchObject({ format: '26-8-16', fits: 5 });
    // The prints are of one hundred; eight of it are sums of those read, of the others the library's format is not alone.
    expect(answer.range).toMatchObject({ from: '0', to: '99', of: '100', given: false, open: 0 });
    expect(answer.range.proven + answer.range.settled + answer.range.likely).toBe(100);
    expect(answer.family.survivors).toMatch(/^\d/);
    expect(answer.predictions[1]).toMatchObject({ standing: 'likely', rival: expect.stringMatching(/^unless/) });
    expect(answer.predictions[1].odds).toBeGreaterThan(0.9);
    expect([none.error.code, bad.error.code]).toEqual(['specimens-none', 'print-unreadable']);
    // Without their leading zeros, and of a length that nobody told: the same number.
    expect(short.predictions[0].standing).toBe('proven');
    expect(BigInt(`0b${short.predictions[0].bits}`)).toBe(BigInt(`0b${truth}`));
    expect(short.range).toMatchObject({ from: '0', to: '99', proven: answer.range.proven });
  });

  it('a bad line is answered in its place, and the rest go on', () => {
    const { answers, status } = run(
      'decode',
      'not json',
      { bits: BITS },
      { bits: '012' },
      { hex: 'FF', length: 26 },
      { bits: BITS, formats: ['nope'] },
      '',
      { bit: '1' },
    );
    expect(answers.map((a) => a.error?.code)).toEqual([
      'json',
      undefined,
      'binary-digit',
      'hex-short',
      'format-unknown',
      'json',
      'input',
    ]);
    expect(answers[2].error).toMatchObject({
      message: expect.stringContaining('"2" at column 3'),
      where: { row: 3, column: 3 },
    });
    expect(status).toBe(0);
    expect(
      run('encode', { format: '26-8-16', values: { facility: '300', number: '1' } }).answers[0].error,
    ).toMatchObject({ code: 'value-range', where: { field: 'values.facility' } });
  });

  it('numbers stay exact past 2^53', () => {
    const { answers } = run('encode', { format: '64-0-64', values: { number: '18446744073709551615' } });
    expect(answers[0].hex).toBe('FFFFFFFFFFFFFFFF');
    expect(run('decode', { bits: answers[0].bits }).answers[0].fits[0].values.number).toBe('18446744073709551615');
  });

  it('says its version, and helps on standard error when it is called wrongly', () => {
    expect(spawnSync(program, ['--version'], { encoding: 'utf8' }).stdout).toMatch(/^rawbits \d+\.\d+\.\d+\n$/);
    const bare = spawnSync(program, [], { encoding: 'utf8' });
    expect([bare.status, bare.stdout, bare.stderr.includes('rawbits decode')]).toEqual([2, '', true]);
  });

  it('passes over a byte order mark, and with --strict fails where a line did', () => {
    const line = '{"hex":"28E4694","length":26}\n';
    const strict = (input: string) => spawnSync(program, ['decode', '--strict'], { input, encoding: 'utf8' });
    expect([strict(`\uFEFF${line}`).status, strict(`${line}{"hex":"Z"}\n`).status]).toEqual([0, 1]);
    expect(strict(`${line}{"hex":"Z"}\n`).stdout.split('\n')).toHaveLength(3);
  });

  it('decodes by a layout line, and by a file of formats', () => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-'));
    const file = join(folder, 'formats.json');
    writeFileSync(file, writeJson([catalogued('26-8-16')!]));
    const layout = '26 | 2-9 value "tenant" | 10-25 number';
    const lines = [
      { hex: '28E4694', length: 26, layout },
      { hex: '28E4694', length: 26, file },
      { hex: '28E4694', length: 26, file: join(folder, 'none.json') },
    ];
    const { answers } = run('decode', ...lines);
    expect(answers[0].fits[0].values).toEqual({ tenant: '71', number: '9034' });
    expect(answers[1].fits.map((fit: { format: string }) => fit.format)).toEqual(['26-8-16']);
    expect(answers[2].error).toMatchObject({ code: 'file-unreadable', where: { field: 'file' } });
    rmSync(folder, { recursive: true });
  });

  it('every example of --help is answered', () => {
    const examples = [...HELP.matchAll(/echo '(.+)' \| rawbits (\w+)/g)];
    expect(examples.length).toBeGreaterThan(3);
    for (const [, line, command] of examples) {
      const { answers } = run(command!, JSON.parse(line!));
      expect([line, answers[0].error]).toEqual([line, undefined]);
    }
  });

  it('helps, and refuses what it does not know', () => {
    expect(spawnSync(program, ['--help'], { encoding: 'utf8' }).stdout).toContain('rawbits decode');
    expect(run('frobnicate')).toMatchObject({ status: 2, stdout: '' });
  });

  it('key: diversified keys, check values and MACs of published examples', () => {
    const data = { uid: '04782E21801D80', application: '3042F5', system: '4E585020416275' };
    const key = '00112233445566778899AABBCCDDEEFF';
    const { answers } = run(
      'key',
      // NXP AN10922; RFC 4493; NIST SP 500-20; the directory of CHIPS.
      { do: 'diversify', kind: 'aes128', key, ...data },
      {
        do: 'diversify',
        kind: 'tdes3',
        key: `${key}0102030405060708`,
        uid: '04782E21801D80',
        application: '3042F5',
        system: '4E5850',
      },
      { do: 'diversify', kind: 'tdes2', key, ...data },
      { do: 'kcv', kind: 'tdes2', key: '0'.repeat(32), of: 'zeros' },
      { do: 'cmac', key: '2b7e151628aed2a6abf7158809cf4f3c', message: '6bc1bee22e409f96e93d7e117393172a' },
      { do: 'directory', block1: '89010108010801080000000000000400', block2: '03100310021002100000000000001130' },
      { do: 'kcv', kind: 'aes128', key: '00' },
    );
    expect(answers.slice(0, 2)).toEqual([
      { key: 'A8DD63A3B89D54B37CA802473FDA9175' },
      { key: '2F0DD03675D3FB9A5705AB0BDA91CA0B55B8E07FCDBF10EC' },
    ]);
    expect(answers[2].error).toMatchObject({ code: 'diversify-data', where: { row: 3, field: 'system' } });
    expect(answers.slice(3, 6)).toMatchObject([
      { kcv: '8CA64D' },
      { mac: '070A16B46B4D4144F79BDD9DD04A287C' },
      { crc: '89', holds: true },
    ]);
    expect(answers[6].error).toMatchObject({ code: 'bytes', where: { field: 'key' } });
  });

  it('chip: a conversation with one card, replayed exactly, torn, and looked at without its keys', () => {
    const { answers } = run(
      'chip',
      { apdu: '9060000000' },
      { apdu: '90AF000000' },
      { apdu: '90AF000000' },
      // CHIPS: AA under a key of zeros would be another; what is drawn is what was given.
      { random: '000102030405060708090A0B0C0D0E0F' },
      { apdu: '90AA0000010000' },
      { tear: 'after' },
      { apdu: '90CA0000050100000F8100' },
      { apdu: '906A000000' },
      { dump: true },
      { blank: { kind: 'sectors' } },
      { read: 4 },
    );
    expect(answers.slice(0, 3).map((a) => a.answer.slice(-4))).toEqual(['91AF', '91AF', '9100']);
    // E(0, RndB) under AES-128 with a zero key.
    expect(answers[4].answer).toBe('7ACA0FD9BCD6EC7C9F97466616E6A28291AF');
    expect(answers[6]).toEqual({ answer: null, torn: true });
    expect(answers[7]).toEqual({ answer: '0100009100' });
    expect(answers[8].memory).toMatchObject({ kind: 'files', generation: 2, applications: [{ id: '000001' }] });
    expect([answers[9].error.code, answers[10].error.code]).toEqual(['blank', 'command']);
  });

  it('plan: what is wrong, what it takes, what its keys can do, and what breaks an assertion, as commands', () => {
    const rights = { read: 1, write: 0, both: 'never', change: 2 };
    const application = {
      id: '3042F5',
      keys: ['dive office', 'access', 'buddy'],
      files: [{ kind: 'standard', number: 0, rights, size: 32 }],
    };
    const plan = {
      schema: 'rawbits/plan@1',
      card: { key: 'card' },
      keys: ['card', ...application.keys].map((name) => ({ name, each: 'card' })),
      applications: [application],
      assertions: [
        { claim: 'only', keys: ['dive office', 'card'], can: 'alter file 0 of 3042F5' },
        { claim: 'never', keys: ['access'], can: 'alter file 0 of 3042F5' },
      ],
    };
    const files = [{ kind: 'standard', number: 0, rights: { ...rights, read: 7 }, size: 8000 }];
    const { answers } = run(
      'plan',
      { plan, keys: [['access']] },
      { plan: { ...plan, assertions: [], applications: [{ ...application, files }, application] } },
      { plan: { ...plan, assertions: [{ claim: 'never', keys: ['x'], can: 'format the card' }] } },
      { plan: { ...plan, applications: [{ ...application, id: '12' }] } },
    );
    expect(answers[0]).toMatchObject({
      problems: [],
      bytes: { used: 128, free: 3968 },
      reach: [
        { keys: ['access'], can: ['list the applications', 'list the files of 3042F5', 'read file 0 of 3042F5'] },
      ],
      assertions: [{ holds: false, keys: ['access', 'buddy'] }, { holds: true }],
    });
    const { by } = answers[0].assertions[0];
    // Select, two frames of authentication, ChangeFileSettings, WriteData.
    expect(by.map((apdu: string) => apdu.slice(2, 4))).toEqual(['5A', 'AA', 'AF', '5F', '3D']);
    expect(answers[1].problems.map((p: { code: string }) => p.code)).toEqual(['memory', 'no-such-key', 'doubled']);
    expect([answers[2].error.code, answers[3].error.where]).toEqual([
      'no-such-key',
      { row: 4, field: 'plan.applications.0.id' },
    ]);
  });

  it('chip: torn while it writes, a sector’s block holds anything and the others what they held', () => {
    const auth = { block: 4, key: 'A', value: 'FFFFFFFFFFFF' };
    const { answers } = run(
      'chip',
      { blank: { kind: 'sectors' } },
      { auth },
      { write: 5, data: '11'.repeat(16) },
      { random: '02AA'.repeat(16) },
      { tear: 'during' },
      { write: 4, data: '22'.repeat(16) },
      { read: 4 },
      { auth },
      { read: 4 },
      { read: 5 },
    );
    expect(answers.slice(5)).toEqual([
      { answer: null, torn: true },
      { refused: 'not authenticated' },
      { answer: 'ACK' },
      // What was drawn says that every byte holds what was drawn for it.
      { answer: 'AA'.repeat(16) },
      { answer: '11'.repeat(16) },
    ]);
  });

  it('chip: a sector card keeps to its access bits', () => {
    const auth = { block: 4, key: 'A', value: 'FFFFFFFFFFFF' };
    const { answers } = run(
      'chip',
      { blank: { kind: 'sectors', size: '1K', uid: '01020304' } },
      { read: 4 },
      { auth },
      { write: 4, data: '640000009BFFFFFF6400000005FA05FA' },
      { decrement: 4, by: 30 },
      { transfer: 5 },
      { read: 5 },
      { auth: { ...auth, value: '000000000000' } },
    );
    expect(answers.slice(1)).toEqual([
      { refused: 'not authenticated' },
      { answer: 'ACK' },
      { answer: 'ACK' },
      { answer: 'ACK' },
      { answer: 'ACK' },
      { answer: '46000000B9FFFFFF4600000005FA05FA' },
      { refused: 'wrong key' },
    ]);
  });

  it('chip: a tag is heard by a reader of its rate, and by no other', () => {
    const { answers } = run(
      'chip',
      { blank: { kind: 'tag', data: '06001259E3' } },
      { read: 0 },
      { hear: { rate: 64 } },
      { hear: { rate: 32 } },
      { write: 0, data: '00088040' },
      { hear: { rate: 32 } },
      { read: 8 },
    );
    expect(answers.slice(1)).toEqual([
      { answer: '00148040' },
      { answer: '06001259E3' },
      { refused: 'no tag is heard' },
      { answer: 'ACK' },
      { answer: '06001259E3' },
      { refused: 'no such block' },
    ]);
  });
});
