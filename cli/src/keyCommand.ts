/** What `rawbits key` does with one line: keys of cards, check values and MACs, for test keys. */

import { directoryIn } from '@rawbits/core/chip';
import { Aes, bytesOf, Cmac, hexOf } from '@rawbits/core/cipher';
import {
  CHECK_VALUES,
  checkValueOf,
  DIVERSIFIED_KINDS,
  Diversifier,
  diversifyData,
  KEY_KINDS,
  keyOf,
  usualCheckValue,
} from '@rawbits/core/key';
import { z } from 'zod';

const hex = z.string().max(4096);

export const directoryInput = z.strictObject({ do: z.literal('directory'), block1: hex, block2: hex });

const keyInput = z.discriminatedUnion('do', [
  z.strictObject({
    do: z.literal('diversify'),
    kind: z.enum(DIVERSIFIED_KINDS),
    key: hex,
    uid: hex,
    application: hex.default(''),
    system: hex.default(''),
  }),
  z.strictObject({ do: z.literal('kcv'), kind: z.enum(KEY_KINDS), key: hex, of: z.enum(CHECK_VALUES).optional() }),
  z.strictObject({ do: z.literal('cmac'), key: hex, message: hex }),
  directoryInput,
]);

export function keyLine(raw: unknown): unknown {
  const input = keyInput.parse(raw);
  switch (input.do) {
    case 'diversify': {
      const { kind, key, uid, application, system } = input;
      const data = diversifyData(bytesOf(uid, 'uid'), bytesOf(application, 'application'), bytesOf(system, 'system'));
      return { key: hexOf(new Diversifier(kind, keyOf(kind, key)).keyFor(data)) };
    }
    case 'kcv': {
      const { kind, key, of = usualCheckValue(kind) } = input;
      return { kcv: checkValueOf(kind, keyOf(kind, key), of), of };
    }
    case 'cmac':
      return { mac: hexOf(new Cmac(new Aes(bytesOf(input.key, 'key', 16))).of(bytesOf(input.message, 'message'))) };
    case 'directory':
      return directoryLine(input);
  }
}

/** The application directory of a sector card: its checksum, and what it says of each sector. */
export function directoryLine({ block1, block2 }: z.output<typeof directoryInput>): unknown {
  const { crc, ...rest } = directoryIn(bytesOf(block1, 'block1', 16), bytesOf(block2, 'block2', 16));
  return { crc: hexOf(Uint8Array.of(crc)), ...rest };
}
