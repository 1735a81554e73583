/** What differs between two plans, place by place. */
import type { PlanDifference } from '@rawbits/core/plan';

/** `applications.5A0001.files.1.rights.read` as `application 5A0001, file 1, rights read`. */
const words = (where: string): string =>
  where
    .replace(/applications\.([0-9A-F]{6})/, 'application $1')
    .replace(/\.files\.(\d+)/, ', file $1')
    .replace(/\.fields\.([^.]+)/, ', field $1')
    .replaceAll('.', ' ');

const short = (json: string | undefined): string => {
  const text = json ?? 'not there';
  return text.length > 90 ? `${text.slice(0, 89)}…` : text;
};

export function Differences({ differences }: { differences: readonly PlanDifference[] }) {
  if (differences.length === 0) return <p className="text-ink-2">Nothing differs.</p>;
  return (
    <table className="grid-table" aria-label="What differs">
      <thead>
        <tr>
          <th scope="col">where</th>
          <th scope="col">before</th>
          <th scope="col">after</th>
        </tr>
      </thead>
      <tbody>
        {differences.map(({ where, before, after }) => (
          <tr key={where}>
            <td>{words(where)}</td>
            <td className="font-mono text-[0.9rem] break-all">{short(before)}</td>
            <td className="font-mono text-[0.9rem] break-all">{short(after)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
