/** What a proximity tag says of itself, line by line. */
import type { PadCard } from '@rawbits/api';

type Tag = Extract<PadCard, { kind: 'tag' }>;

export const tagLines = ({ uid, sends, hasPassword }: Tag): [string, string][] => [
  ['comes from', uid],
  ['sends', sendsWords(sends)],
  ['password', hasPassword ? 'yes, or its blocks cannot be read' : 'none'],
];

function sendsWords(sends: Tag['sends']): string {
  if (sends === null) return 'nothing';
  if (sends.is === 'identification') return `${sends.data} as an identification tag`;
  return sends.is === 'string'
    ? `a string of ${sends.bits.length} bits: ${sends.bits}`
    : `blocks ${sends.words.join(' ')}`;
}
