/** The guide as it lies in docs/, in the application: contents at the left, the text at the right. */
import Markdown from 'markdown-to-jsx/react';
import { type ReactNode, useEffect, useRef } from 'react';
import guide from '../../../../docs/guide.md?raw';
import identify from '../../../../docs/identify.md?raw';
import { headingId, headingsOf } from './chapters.ts';

const TEXT = `${guide}\n\n${identify}`;
const CONTENTS = headingsOf(TEXT);

/** Other files of docs/ are not in the application: their names stand as words. */
function GuideLink({ href = '', children }: { href?: string; children?: ReactNode }) {
  if (href.startsWith('identify.md'))
    return <a href={`#${headingId('Identify: a worked case, and what its words mean')}`}>{children}</a>;
  return href.startsWith('#') ? <a href={`#guide-${href.slice(1)}`}>{children}</a> : <em>{children}</em>;
}

const OPTIONS = {
  slugify: headingId,
  overrides: { a: GuideLink, img: () => null, table: { props: { className: 'grid-table' } } },
};

export function Guide({ at }: { at: string }) {
  const text = useRef<HTMLDivElement>(null);
  const goTo = (id: string) => {
    const heading = text.current?.querySelector<HTMLElement>(`[id="${id}"]`);
    if (!heading) return;
    heading.scrollIntoView();
    heading.tabIndex = -1;
    heading.focus();
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: it opens once at each place
  useEffect(() => goTo(headingId(at)), [at]);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[15rem_minmax(0,1fr)] gap-4 max-md:block max-md:overflow-auto">
      <nav aria-label="Contents of the guide" className="min-h-0 overflow-auto border-r border-base-300 pr-2">
        <ul>
          {CONTENTS.map(({ id, text: words, level }) => (
            <li key={id}>
              <button
                type="button"
                className={`switch-link block text-left ${level === 1 ? 'mt-2 font-bold' : 'pl-2'}`}
                onClick={() => goTo(id)}
              >
                {words}
              </button>
            </li>
          ))}
        </ul>
      </nav>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the links inside are followed by the keyboard, too */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the links inside are what is clicked */}
      <div
        ref={text}
        className="guide min-h-0 overflow-auto pr-2"
        onClick={(event) => {
          const link = (event.target as HTMLElement).closest('a');
          if (!link) return;
          event.preventDefault();
          goTo(link.getAttribute('href')!.slice(1));
        }}
      >
        <Markdown options={OPTIONS}>{TEXT}</Markdown>
      </div>
    </div>
  );
}
