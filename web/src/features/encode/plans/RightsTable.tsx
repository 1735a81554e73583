/** Rights at a glance: keys across, files down, and in each cell what the key may do. */
import type { Plan, PlanApplication, PlanFile, Who } from '@rawbits/core/plan';
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';

const MARKS = [
  ['read', 'R', 'read'],
  ['write', 'W', 'write'],
  ['both', 'RW', 'read and write'],
  ['change', 'C', 'change the rights'],
] as const;

/** What somebody may do with a file, as letters and in words. */
export function marksOf({ rights }: PlanFile, who: Who): { marks: string; words: string } {
  const held = MARKS.filter(([right]) => rights[right] === who);
  return { marks: held.map(([, mark]) => mark).join(' '), words: held.map(([, , words]) => words).join(', ') };
}

export function RightsTable({ plan, onChoose }: { plan: Plan; onChoose: (chosen: Chosen) => void }) {
  return (
    <div className="grid gap-4">
      {plan.applications.map((application) => (
        <OneApplication key={application.id} application={application} onChoose={onChoose} />
      ))}
      <p className="text-[0.9rem] text-ink-2">
        R read, W write, RW read and write, C change the rights. Key 0 can besides delete every file and put another in
        its place.
      </p>
    </div>
  );
}

function OneApplication({
  application,
  onChoose,
}: {
  application: PlanApplication;
  onChoose: (chosen: Chosen) => void;
}) {
  const { id, name, keys, files } = application;
  const holders: Who[] = [...keys.keys(), 'free', 'never'];
  return (
    <div className="panel overflow-x-auto">
      <table className="grid-table">
        <caption className="p-2 text-left font-bold">
          {name} <span className="font-mono font-normal">{id}</span>
        </caption>
        <thead>
          <tr>
            <th scope="col">file</th>
            {holders.map((who) => (
              <th key={who} scope="col" className="whitespace-normal">
                {who === 'free' ? 'everybody' : who === 'never' ? 'nobody' : `${who} ${keys[who] ?? 'the factory’s'}`}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {files.map((file) => (
            <tr key={file.number}>
              <th scope="row" className="font-normal">
                <button
                  type="button"
                  className="cursor-pointer underline"
                  onClick={() => onChoose({ application: id, file: file.number })}
                >
                  {file.number} {file.name}
                </button>
              </th>
              {holders.map((who) => {
                const { marks, words } = marksOf(file, who);
                return (
                  <td key={who} title={words || undefined} className={who === 'never' ? 'text-ink-2' : 'font-bold'}>
                    {marks || <span className="font-normal text-base-300">·</span>}
                    {words && <span className="sr-only"> {words}</span>}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
