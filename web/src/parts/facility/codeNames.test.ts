import type { FacilityCode } from '@rawbits/api';
import { expect, it } from 'vitest';
import { withCodeNames } from './codeNames.ts';

const code = (code: string, name: string, formatId: string | null = null) =>
  ({ code, name, formatId, reserved: [] }) as unknown as FacilityCode;

it('a sentence of the server names its codes, and those of two names stay as they are', () => {
  const codes = [code('58', 'First box'), code('29', 'Old boats', '26-8-16'), code('29', 'Fuel dock', '34-16-16')];
  const told = (sentence: string) => withCodeNames(codes, sentence);
  expect(told('Number 10233, facility code 58, is on file and active.')).toBe(
    'Number 10233, facility code 58 (First box), is on file and active.',
  );
  expect(told('Number 7 is on file with facility code 29, but the card says 58.')).toBe(
    'Number 7 is on file with facility code 29, but the card says 58 (First box).',
  );
  expect(told('Number 58 is not on file in this controller.')).toBe('Number 58 is not on file in this controller.');
});
