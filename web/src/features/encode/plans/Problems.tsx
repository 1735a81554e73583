/** What is wrong with a plan, or ill-advised: each leads to where it is. */
import type { ChipPlan } from '@rawbits/api';
import type { PlanProblem } from '@rawbits/core/plan';
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';

interface Props {
  problems: PlanProblem[];
  plan: ChipPlan;
  onChoose: (chosen: Chosen) => void;
}

export function Problems({ problems, plan, onChoose }: Props) {
  if (problems.length === 0)
    return <p className="text-[0.9rem] text-ink-2">Nothing is wrong with it, and nothing advised against.</p>;
  const errors = problems.filter(({ weight }) => weight === 'error');
  return (
    <details open={errors.length > 0} className="text-[0.95rem]">
      <summary className="cursor-pointer">
        {errors.length > 0 && (
          <strong className="text-signal">
            {errors.length} {errors.length === 1 ? 'thing keeps' : 'things keep'} it from being encoded.{' '}
          </strong>
        )}
        {problems.length - errors.length > 0 &&
          `${problems.length - errors.length} ${problems.length - errors.length === 1 ? 'piece' : 'pieces'} of advice`}
      </summary>
      <ul className="grid gap-0.5 py-1">
        {problems.map(({ weight, code, message, where }) => {
          const place = placeOf(plan, where);
          return (
            <li key={`${code} ${where} ${message}`} className="grid grid-cols-[5rem_1fr] gap-2">
              <span className={weight === 'error' ? 'font-bold text-signal' : 'text-ink-2'}>{weight}</span>
              <span>
                {message}{' '}
                {place && (
                  <button
                    type="button"
                    className="cursor-pointer text-ink-2 underline"
                    onClick={() => onChoose(place.chosen)}
                  >
                    {place.words}
                  </button>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </details>
  );
}

/** Where a problem stands in the plan, from its path. */
function placeOf(plan: ChipPlan, where: string): { chosen: Chosen; words: string } | undefined {
  const [, application, file] = /^applications\.(\d+)(?:\.files\.(\d+))?/.exec(where) ?? [];
  if (plan.kind !== 'files' || application === undefined) return undefined;
  const one = plan.applications[Number(application)];
  if (!one) return undefined;
  const number = file === undefined ? undefined : one.files[Number(file)]?.number;
  return {
    chosen: { application: one.id, ...(number !== undefined && { file: number }) },
    words: number === undefined ? one.id : `file ${number} of ${one.id}`,
  };
}
