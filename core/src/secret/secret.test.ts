import { inspect } from 'node:util';
import { describe, expect, it } from 'vitest';
import { canonicalJson } from '../access/index.ts';
import { Secret } from './index.ts';

const secret = new Secret('two-wires-idle-high');

describe('a secret', () => {
  it.each([
    ['JSON', JSON.stringify({ secret })],
    ['canonical JSON', canonicalJson({ secret })],
    ['a text made of it', `the password is ${secret}`],
    ['what console prints', inspect({ secret, list: [secret] }, { depth: 9, showHidden: true })],
    ['an error', String(new Error(`wrong: ${secret}`))],
    ['its properties', JSON.stringify([Object.entries(secret), { ...secret }])],
    ['a copy of it', JSON.stringify(structuredClone({ ...secret }))],
  ])('is not in %s', (_, text) => {
    expect(text).not.toContain('two-wires');
  });

  it('is given by its one word', () => expect(secret.reveal()).toBe('two-wires-idle-high'));
});
