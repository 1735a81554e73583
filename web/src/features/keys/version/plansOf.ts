/** The plans in which a key stands: cards by such a plan carry it, and a run brings them along when it rolls over. */
import type { KeyHolding, KeySet, PlanOnFile } from '@rawbits/api';

/** Whether a plan means this key: by set and name, or by its name alone. */
const means = (named: PlanOnFile['keys'][number], set: string, key: string): boolean =>
  named.from ? named.from.set === set && named.from.key === key : named.name === key;

export const plansOf = (plans: readonly PlanOnFile[], set: string, key: string): PlanOnFile[] =>
  plans.filter(({ keys }) => keys.some((named) => means(named, set, key)));

/** What plans hold, as the matrix has it: of each key the version in use. */
export const holdingsOfPlans = (plans: readonly PlanOnFile[], sets: readonly KeySet[]): KeyHolding[] =>
  sets.flatMap((set) =>
    set.keys.flatMap((key) =>
      key.current === null
        ? []
        : plansOf(plans, set.name, key.name).map(
            ({ id, name }): KeyHolding => ({
              id: `${id} ${key.id}`,
              keyId: key.id,
              version: key.current!,
              kind: 'plan',
              holderId: id,
              holder: name,
              what: 'whole',
              how: 'stands in it',
              since: new Date(0).toISOString(),
              until: null,
            }),
          ),
    ),
  );
