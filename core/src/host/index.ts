/** The other side of the conversation with a card, written apart from `chip`. */
export { type Channel, FirstChannel, SecondChannel, ThirdChannel } from './channel.ts';
export type { Authentication } from './conversation.ts';
export {
  Exchange,
  type ExchangeLine,
  type Explained,
  explainedAnswer,
  explainedCommand,
  explainedLine,
  keptTagFrame,
  type Part,
  wordsHeard,
} from './explain.ts';
export { CardRefusal } from './failure.ts';
export {
  type FileMode,
  FilesHost,
  type Rights,
  rightsBytes,
  type Who,
} from './filesHost.ts';
export { type Access, SectorsHost, trailerBytes } from './sectorsHost.ts';
export { cipherOf, type HostKey, type HostKeyKind } from './sessionKeys.ts';
export { type TagFrame, TagHost, type TagTransport } from './tagHost.ts';
export type { Transport } from './transport.ts';
