/** Commands taken apart by the layouts of CHIPS, and what is never kept of an exchange. */
import { expect, it } from 'vitest';
import { bytesOf } from '../cipher/index.ts';
import { Exchange, explainedAnswer, explainedCommand } from './index.ts';

const hex = (text: string) => bytesOf(text.replace(/\s/g, ''), 'test');

it('a write in its fields', () => {
  expect(explainedCommand(hex('90 3D 00 00 0C 03 000000 050000 48656C6C6F 00'))).toEqual({
    name: 'WriteData',
    parts: [
      { what: 'file', hex: '03' },
      { what: 'offset', hex: '000000' },
      { what: 'length', hex: '050000' },
      { what: 'data', hex: '48656C6C6F' },
    ],
  });
});

it('an answer with its status in words', () => {
  expect(explainedAnswer(hex('C7 5F 54 91 00'))).toEqual({
    name: 'done',
    parts: [
      { what: 'data', hex: 'C75F54' },
      { what: 'status', hex: '9100' },
    ],
  });
  expect(explainedAnswer(hex('91 AE')).name).toBe('not authenticated');
});

it('of a new key nothing is kept, not even enciphered, however many frames it takes', () => {
  const exchange = new Exchange();
  exchange.note(hex('90 C4 00 00 03 01 AABB 00'), hex('91AF'));
  exchange.note(hex('90 AF 00 00 02 CCDD 00'), hex('9100'));
  exchange.note(hex('90 AA 00 00 01 00 00'), hex('91AF'));
  exchange.note(hex('90 AF 00 00 02 1234 00'), hex('9100'));
  expect(exchange.lines.map(({ command }) => command)).toEqual([
    '90C400000301',
    '90AF000002',
    '90AA0000010000',
    '90AF000002123400',
  ]);
  expect(JSON.stringify(exchange.lines)).not.toMatch(/AABB|CCDD/);
  expect(explainedCommand(hex('90 C4 00 00 03 01 AABB 00')).parts).toEqual([
    { what: 'key', hex: '01' },
    { what: 'the new key, enciphered', hex: '' },
  ]);
});
