import { expect, it } from 'vitest';
import guide from '../../../docs/guide.md?raw';
import identify from '../../../docs/identify.md?raw';
import { chapterOf, headingId, headingsOf } from '../features/help/chapters.ts';
import { MEANT } from '../parts/term/Term.tsx';
import { OTHER_SCREENS, SCREENS } from './screens.ts';

const everyHeading = [...`${guide}\n\n${identify}`.matchAll(/^#{1,3} (.+)$/gm)].map(([, text]) => text);

it('every screen has its chapter, and every word its place in the guide', () => {
  const chapters = [...SCREENS, ...OTHER_SCREENS].map(({ path }) => chapterOf(path));
  for (const heading of [...chapters, ...Object.values(MEANT).map(({ chapter }) => chapter)])
    expect(everyHeading).toContain(heading);
  expect(new Set(chapters.map(headingId)).size).toBe(chapters.length);
});

it('no two headings of the contents have one id', () => {
  const ids = headingsOf(`${guide}\n\n${identify}`).map(({ id }) => id);
  expect(new Set(ids).size).toBe(ids.length);
  expect(ids.length).toBeGreaterThan(25);
});
