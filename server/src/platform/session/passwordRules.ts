/**
 * Which passwords are too easy: those that people choose most often, and those made of the operator's own name. The
 * list is that of the package `@zxcvbn-ts/language-common` (49,233 passwords from published leaks). Lengths and the
 * advice against any other rule follow NIST SP 800-63B §5.1.1.2.
 */
import type { Secret } from '@rawbits/core/secret';
import { dictionary } from '@zxcvbn-ts/language-common';
import { invalid } from '../problem/problem.ts';

let commonest: Set<string> | undefined;
const isCommon = (word: string): boolean => (commonest ??= new Set(dictionary['passwords-common'])).has(word);

/** Letters that a password has to have besides the name in it. */
const LEAST_BESIDES_NAME = 6;
const LEAST_DIFFERENT = 5;

/** Why a password is too easy, in a sentence; undefined where it is not. */
export function tooEasy(password: string, { login, name }: { login: string; name: string }): string | undefined {
  const plain = password.normalize('NFKC').toLowerCase();
  const core = plain.replace(/^[^\p{L}]+|[^\p{L}]+$/gu, '');
  if (isCommon(plain) || isCommon(core) || isCommon(plain.replace(/[^\p{L}\p{N}]/gu, '')))
    return 'This password is one of those that people choose most often.';
  if (new Set(plain).size < LEAST_DIFFERENT) return 'This password has too few different characters.';
  const half = plain.slice(0, Math.ceil(plain.length / 2));
  if (isCommon(half) && plain === (half + half).slice(0, plain.length))
    return 'This password is one of the commonest, written twice.';
  const own = [login, ...name.split(/\s+/)].map((word) => word.toLowerCase()).filter((word) => word.length >= 3);
  let rest = plain;
  for (const word of own) rest = rest.split(word).join('');
  if (rest !== plain && rest.replace(/[^\p{L}]/gu, '').length < LEAST_BESIDES_NAME)
    return 'This password is made of the name.';
  return undefined;
}

/** Throws where a password is too easy, naming the field. */
export function checkPassword(password: Secret, whose: { login: string; name: string }, field = 'password'): void {
  const why = tooEasy(password.reveal(), whose);
  if (why) throw invalid(field, why, 'Take several words that do not belong together.');
}
