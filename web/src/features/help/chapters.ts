/** Which chapter of the guide belongs to a screen, and how headings are addressed. */

/** The heading that the guide opens at, by the screen's path. */
const CHAPTERS: Record<string, string> = {
  read: 'What can be pasted',
  identify: 'Identify: a worked case, and what its words mean',
  formats: 'Formats',
  stock: 'Cards and their states',
  keys: 'Keys',
  encode: 'Plans: what goes on a card',
  doors: 'Doors',
  trail: 'The trail',
  operators: 'Operators',
  site: 'A site of your own',
  account: 'What you typed is still there',
};

export const chapterOf = (screen: string | undefined): string => CHAPTERS[screen ?? ''] ?? 'The first card';

/** The id of a heading on the page: nothing else of the application begins so. */
export const headingId = (heading: string): string =>
  `guide-${heading
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')}`;

export interface Heading {
  id: string;
  text: string;
  /** 1 for the title of a text, 2 for a chapter. */
  level: number;
}

/** The headings of a text that the list of contents shows. */
export const headingsOf = (markdown: string): Heading[] =>
  [...markdown.matchAll(/^(#{1,2}) (.+)$/gm)].map(([, hashes, text]) => ({
    id: headingId(text!),
    text: text!,
    level: hashes!.length,
  }));
