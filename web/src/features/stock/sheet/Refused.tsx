/** Rows that cannot be entered: told, and given back as a file to be mended. */
import { counted } from '../../../platform/words/words.ts';
import type { Told } from './table.ts';

const BAD_SHOWN = 200;

export function Refused({ bad, onFile }: { bad: readonly Told[]; onFile: () => void }) {
  return (
    <div className="border-l-4 border-signal pl-3">
      <p>
        <strong>{counted(bad.length, 'row')}</strong> cannot: they stay here to be mended once the others are entered.{' '}
        <button type="button" className="switch-link underline" onClick={onFile}>
          as CSV, with the reasons
        </button>
      </p>
      {/* A region that scrolls can be scrolled by the keyboard. */}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: see above */}
      <ul className="max-h-48 overflow-auto" aria-label="Rows that cannot be entered" tabIndex={0}>
        {bad.slice(0, BAD_SHOWN).map(({ row, message, hint }) => (
          <li key={row}>
            <span className="font-mono text-ink-2">row {row}</span> {message}{' '}
            {hint && <span className="text-ink-2">{hint}</span>}
          </li>
        ))}
      </ul>
      {bad.length > BAD_SHOWN && (
        <p className="text-ink-2">and {bad.length - BAD_SHOWN} more: they are all in the CSV</p>
      )}
    </div>
  );
}
