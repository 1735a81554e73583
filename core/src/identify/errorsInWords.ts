/** An explanation as a suspect: what is wrong with which cards, in words a technician acts on. */
import { rangeOf } from '../format/index.ts';
import type { Analysis } from './analysis.ts';
import { type ErrorKind, type Mend, rowOf } from './errors/error.ts';
import type { Explained } from './explain.ts';
import type { Suspect } from './finding.ts';

export function explainedSuspect(analysis: Analysis, explained: Explained): Suspect {
  const { specimens } = analysis;
  const { kind, mend, odds } = explained;
  const rows = mend.map(({ row }) => row).sort((a, b) => a - b);
  return {
    kind,
    rows,
    mend,
    odds,
    words: wordsOf(kind, rows, mend, specimens, explained, analysis.main!.reading.print),
  };
}

function wordsOf(
  kind: ErrorKind,
  rows: readonly number[],
  mend: readonly Mend[],
  specimens: Analysis['specimens'],
  { positions }: Explained,
  print: number,
): string {
  const [one] = mend;
  const cards = `${rows.length === 1 ? 'card' : 'cards'} ${listed(rows)}`;
  const own = specimens.find((specimen) => rowOf(specimen) === one!.row);
  const typed = own?.prints[print]?.text ?? '';
  switch (kind) {
    case 'swapped pair':
      return `The prints of ${cards} are swapped: exchanged, all cards agree.`;
    case 'mistyped print':
      return rows.length === 1
        ? `The print of card ${rows[0]}, ${typed}, stands as ${one!.printed} where the others have theirs: most likely mistyped.`
        : `The prints of ${cards} are not what stands where the others have theirs: most likely mistyped.`;
    case 'misread bit':
      return `Bit ${positions!.join(' or ')} of card ${rows[0]} is not as the others ask for: most likely a misread. Read it again.`;
    case 'inverted read':
      return rows.length === 1
        ? `Every bit of card ${rows[0]} is inverted: the two wires are swapped at that reader. Inverted back it agrees.`
        : `Every bit of ${cards} is inverted: the two wires are swapped at that reader. Inverted back they agree.`;
    case 'other facility code':
      return `${cards[0]!.toUpperCase()}${cards.slice(1)} ${rows.length === 1 ? 'has' : 'have'} another facility code than the rest.`;
    case 'other format':
      return `${cards[0]!.toUpperCase()}${cards.slice(1)} ${rows.length === 1 ? 'is' : 'are'} of another format than the rest.`;
    case 'lost bit':
      return `Card ${rows[0]} is one bit short: a bit was lost. With it the read would be as the others ask for.`;
    case 'lost zeros':
      return `The leading zeros of ${cards} were lost; with them they are as long as the others, and agree.`;
  }
}

const listed = (rows: readonly number[]): string => {
  const text = rangeOf([...rows]).replaceAll(',', ', ');
  return rows.length === 2 ? rows.join(' and ') : text;
};
