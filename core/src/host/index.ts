/** The other side of the conversation with a card, written apart from `chip`. */
export type { Authentication } from './conversation.ts';
export { Exchange, type Explained, explainedAnswer, explainedCommand, explainedLine, type Part } from './explain.ts';
export { CardRefusal } from './failure.ts';
export {
  type FileMode,
  FilesHost,
  type Rights,
  rightsBytes,
  type Who,
} from './filesHost.ts';
export { type Access, SectorsHost, trailerBytes } from './sectorsHost.ts';
export type { HostKey, HostKeyKind } from './sessionKeys.ts';
export { type TagFrame, TagHost, type TagTransport } from './tagHost.ts';
export type { Transport } from './transport.ts';
