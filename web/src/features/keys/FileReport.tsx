/** The keys of a file against those of the store, by their check values. */
import type { KeyFileReport } from '@rawbits/api';
import { counted } from '../../platform/words/words.ts';
import { KIND_WORDS } from './words/words.ts';

interface Props {
  report: KeyFileReport;
  /** What was done with those that the store had not: "taken in", "would be taken in". */
  done: string;
}

export function FileReport({ report, done }: Props) {
  const count = (standing: string) => report.keys.filter((key) => key.standing === standing).length;
  const words = { same: 'the same here', new: done, differs: 'another key here' };
  return (
    <div className="grid gap-2" role="status">
      <p>
        <strong>{counted(report.keys.length, 'key')} opened.</strong> {count('same')} are the same here, {count('new')}{' '}
        {done}
        {count('differs') > 0 && <strong className="text-signal">, {count('differs')} differ from those here</strong>}.
        {report.missing.length > 0 && (
          <span className="text-signal"> Not in the file: {report.missing.join('; ')}. Make a newer backup.</span>
        )}
      </p>
      <div className="max-h-64 overflow-auto">
        <table className="grid-table">
          <thead>
            <tr>
              <th>key</th>
              <th>version</th>
              <th>kind</th>
              <th>check value</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {report.keys.map((key) => (
              <tr key={`${key.set} ${key.name} ${key.version}`}>
                <td>
                  <span className="text-ink-2">{key.set} /</span> {key.name}
                </td>
                <td className="font-mono">{key.version}</td>
                <td>{KIND_WORDS[key.kind as keyof typeof KIND_WORDS]}</td>
                <td className="font-mono">{key.checkValue}</td>
                <td className={key.standing === 'differs' ? 'font-bold text-signal' : ''}>{words[key.standing]}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
