/** Status codes of file-system cards (DOMAIN §4, CHIPS), and how a command is refused with one. */
export const STATUS = {
  ok: 0x00,
  noChange: 0x0c,
  outOfMemory: 0x0e,
  illegalCommand: 0x1c,
  integrity: 0x1e,
  noSuchKey: 0x40,
  length: 0x7e,
  permission: 0x9d,
  parameter: 0x9e,
  noApplication: 0xa0,
  authentication: 0xae,
  more: 0xaf,
  boundary: 0xbe,
  aborted: 0xca,
  count: 0xce,
  duplicate: 0xde,
  noFile: 0xf0,
} as const;
export type Status = keyof typeof STATUS;

export class Refused extends Error {
  constructor(readonly status: Status) {
    super(status);
  }
}

export function refuse(status: Status): never {
  throw new Refused(status);
}
