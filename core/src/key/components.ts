/**
 * Components: a key as the XOR of parts that different people hold (common practice, no source). Any parts but all of them
 * say nothing of the key.
 */
import { xored } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';

export const FEWEST_COMPONENTS = 2;
export const MOST_COMPONENTS = 5;

/** The key of its components, in any order. Throws `components` where there are too few, or their lengths differ. */
export function combined(components: readonly Uint8Array[]): Uint8Array {
  const [first, ...rest] = components;
  if (!first || rest.length === 0) fail('components', `A key has at least ${FEWEST_COMPONENTS} components.`);
  if (rest.some(({ length }) => length !== first!.length)) fail('components', 'The components have different lengths.');
  return rest.reduce(xored, first!);
}

/** A key in `count` components; `random` has `count − 1` keys' worth of random bytes. */
export function splitUp(key: Uint8Array, count: number, random: Uint8Array): Uint8Array[] {
  if (count < FEWEST_COMPONENTS || count > MOST_COMPONENTS)
    fail('components', `A key is split into ${FEWEST_COMPONENTS} to ${MOST_COMPONENTS} components, not ${count}.`);
  if (random.length !== (count - 1) * key.length) throw new Error('not as many random bytes as the parts need');
  const parts = Array.from({ length: count - 1 }, (_, i) => random.slice(i * key.length, (i + 1) * key.length));
  return [...parts, parts.reduce(xored, key)];
}
