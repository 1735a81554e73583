import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

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

  it('identify: what a few cards prove', () => {
    const numbers = ['40', '41', '42', '44', '43'];
    const encoded = run(
      'encode',
      ...numbers.map((number) => ({ format: '26-8-16', values: { facility: '71', number } })),
    );
    const specimens = encoded.answers.map(({ bits }, i) => ({ bits, printed: numbers[i] }));
    const [answer, none, bad] = run(
      'identify',
      { specimens, predict: ['45', '600'] },
      { specimens: [] },
      { specimens: [{ bits: '01', printed: 'x?' }] },
    ).answers;
    const truth = run('encode', { format: '26-8-16', values: { facility: '71', number: '45' } }).answers[0].bits;
    expect(answer).toMatchObject({ length: 26, checks: 1, suspects: [] });
    expect(answer.bits[24]).toMatchObject({ at: 25, standing: 'proven', xorOf: [0], plus: 0 });
    expect(answer.predictions[0]).toMatchObject({ printed: '45', bits: truth, standing: 'proven' });
    expect(answer.known[0]).toMatchObject({ format: '26-8-16', fits: 5 });
    expect([none.error.code, bad.error.code]).toEqual(['specimens-none', 'print-unreadable']);
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

  it('helps, and refuses what it does not know', () => {
    expect(spawnSync(program, ['--help'], { encoding: 'utf8' }).stdout).toContain('rawbits decode');
    expect(run('frobnicate')).toMatchObject({ status: 2, stdout: '' });
  });
});
