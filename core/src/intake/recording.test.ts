/** A line as it was recorded: value change dumps, tables of levels, lists of edges; the read that a receiver makes of it. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { failureOf } from '../failure/index.ts';
import { pulsesOf } from '../line/index.ts';
import { intake, readsIn } from './index.ts';

const BITS = '01011100110101110011010111';
/** Edges of a read, in microseconds: falling and rising of each pulse. */
const edges = (binary: string, startUs = 1500) =>
  pulsesOf(Bits.fromBinary(binary), { widthUs: 50, spacingUs: 1000 }, startUs).flatMap(({ atUs, wire, widthUs }) => [
    { at: atUs, wire, level: 0 },
    { at: atUs + widthUs, wire, level: 1 },
  ]);

/** IEEE 1364-2005 §18.2, written out: header, definitions, initial values, changes. `rest` is the level at rest. */
const dump = (binary: string, { scale = '1 us', per = 1, names = ['D0', 'D1'], rest = 1 } = {}) =>
  [
    '$date today $end',
    `$timescale ${scale} $end`,
    '$scope module logic $end',
    `$var wire 1 ! ${names[0]} $end`,
    `$var wire 1 " ${names[1]} $end`,
    '$var wire 8 # other $end',
    '$upscope $end',
    '$enddefinitions $end',
    '#0',
    '$dumpvars',
    `${rest}!`,
    `${rest}"`,
    'b00000000 #',
    '$end',
    ...edges(binary).flatMap(({ at, wire, level }) => [
      `#${at * per}`,
      `${rest === 1 ? level : 1 - level}${'!"'[wire]}`,
    ]),
    `#${60_000 * per}`,
  ].join('\n');
const table = (binary: string, heading: string, time: (us: number) => string, separator = ',') => {
  const levels = [1, 1];
  const rows = edges(binary).map(({ at, wire, level }) => {
    levels[wire] = level;
    return [time(at), ...levels].join(separator);
  });
  return [heading, [time(0), 1, 1].join(separator), ...rows].join('\n');
};
const first = (text: string) => {
  const { readings } = intake(text);
  return { ...readings[0], bits: readings[0].bits.toBinary(), count: readings.length };
};

describe('a recorded line', () => {
  it.each([
    ['a value change dump', dump(BITS), /^value change dump; 26 pulses, 50 µs wide, 1000 µs apart$/],
    ['in nanoseconds', dump(BITS, { scale: '100 ns', per: 10 }), /50 µs wide/],
    ['with wires of other names', dump(BITS, { names: ['probe_a', 'probe_b'] }), /probe_a taken as DATA0/],
    [
      'with the wires the other way round by name',
      dump(
        BITS.replace(/[01]/g, (b) => (b === '0' ? '1' : '0')),
        { names: ['DATA1', 'DATA0'] },
      ),
      /dump; 26/,
    ],
    ['through an inverter', dump(BITS, { rest: 0 }), /rest low: taken as inverted/],
    ['a table of levels', table(BITS, 'Time [us],D0,D1', String), /^table of levels; 26 pulses/],
    [
      'in seconds, unnamed, by semicolons',
      table(BITS, 'time;Data 0;Data 1', (us) => (us / 1e6).toFixed(6), ';'),
      /times taken in s;/,
    ],
    [
      'by the colours of the wires',
      table(BITS, 'Time (ms)\tgreen\twhite', (us) => String(us / 1000), '\t'),
      /26 pulses, 50 µs/,
    ],
    [
      'a list of edges',
      edges(BITS, 0)
        .map(({ at, wire, level }) => `${at} us D${wire} ${level ? 'rise' : 'fall'}`)
        .join('\n'),
      /^list of edges; 26 pulses/,
    ],
  ])('%s', (_, text, note) => {
    const taken = first(text);
    expect([taken.bits, taken.notation, taken.count]).toEqual([BITS, 'pulses', 1]);
    expect(taken.note).toMatch(note);
    expect(taken.pulses).toHaveLength(26);
  });

  it('two reads with a pause between them are two, looked through like lines', () => {
    const second = BITS.slice(0, 20);
    const both = [...edges(BITS), ...edges(second, 200_000)].map(({ at, wire, level }) => `${at} D${wire} ${level}`);
    const taken = readsIn(both.join('\n'));
    expect(taken.map(({ readings }) => readings![0]!.bits.toBinary())).toEqual([BITS, second]);
  });

  it('random reads come back, whichever way they were recorded', () => {
    const bits = fc.array(fc.constantFrom('0', '1'), { minLength: 4, maxLength: 120 }).map((all) => all.join(''));
    fc.assert(
      fc.property(bits, fc.boolean(), (binary, asTable) => {
        // A table or dump in which one wire never moves still says which it is.
        const text = asTable ? table(binary, 'Time [us],D0,D1', String) : dump(binary).replace('#60000', '#400000');
        expect(first(text).bits).toBe(binary);
      }),
      { numRuns: 60 },
    );
  });

  it('a pulse that is too long is left out and told; both wires low at once spoil the read', () => {
    const long = edges(BITS).map(({ at, wire, level }, i) => `${at + (i === 5 ? 400 : 0)} us D${wire} ${level}`);
    expect(first(long.join('\n')).note).toContain('A pulse of 450 µs');
    const clash = ['100 us D0 fall', '120 us D1 fall', '150 us D0 rise', '170 us D1 rise'];
    expect(failureOf(catching(() => intake(clash.join('\n'))))).toMatchObject({ code: 'recording-none' });
  });

  it.each([
    ['a dump without its unit', dump(BITS).replace(/\$timescale.*/, ''), 'recording-unit', undefined],
    [
      'three wires, none of them named',
      table(BITS, 'Time [us],a,b,c', String).replaceAll(/\n(.*)/g, '\n$1,1'),
      'recording-wires',
      undefined,
    ],
    ['a level that is none', `${table(BITS, 'Time [us],D0,D1', String)}\n60000,2,1`, 'recording-row', 55],
    ['a line among the edges that is none', '1 us D0 fall\n50 us D0 rise\n1000 us D1 fall\nhello', 'recording-row', 4],
    ['nothing that moves', 'Time [us],D0,D1\n0,1,1\n100,1,1\n200,1,1', 'recording-still', undefined],
    ['no unit that suits', 'time,D0,D1\n0,1,1\n1,0,1\n500,1,1\n9000,1,1', 'recording-unit', undefined],
  ])('%s is refused', (_, text, code, row) => {
    const failure = failureOf(catching(() => intake(text)));
    expect([failure.code, failure.where?.row]).toEqual([code, row]);
  });

  it('is not seen in what is none: lines of reads stay lines', () => {
    expect(readsIn('28E4694 26 bits\n071,09034').map(({ readings }) => readings![0]!.notation)).toEqual([
      'hex',
      'facility-number',
    ]);
  });
});

function catching(work: () => unknown): unknown {
  try {
    return work();
  } catch (error) {
    return error;
  }
}
