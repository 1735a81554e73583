/** What `rawbits plan` does with one line: what is wrong with a chip plan, what it takes, and what its keys can do. */
import { hexOf } from '@rawbits/core/cipher';
import { FilesHost } from '@rawbits/core/host';
import {
  bytesOfPlan,
  checkAssertion,
  keyNames,
  type Plan,
  Player,
  planSchema,
  problemsOfPlan,
  reach,
  type Step,
  standInCard,
  standInKeys,
} from '@rawbits/core/plan';
import { z } from 'zod';

const planInput = z.strictObject({
  plan: planSchema,
  /** Sets of keys to be asked about; without them nobody's, and each key by itself. */
  keys: z.array(z.array(z.string()).max(40)).max(100).optional(),
});

/** What a card draws, so that a run can be repeated. */
const draw = (count: number): Uint8Array => Uint8Array.from({ length: count }, (_, i) => i & 0xff);

/** The commands of some steps as they are sent to a card with the plan on it, under keys that stand in for the plan's. */
async function sent(plan: Plan, steps: readonly Step[]): Promise<string[]> {
  const card = await standInCard(plan, draw);
  const commands: string[] = [];
  const host = new FilesHost(
    {
      transmit: async (apdu) => {
        commands.push(hexOf(apdu));
        return card.transmit(apdu, draw);
      },
    },
    draw,
  );
  await new Player(host, plan, standInKeys(plan)).take(steps);
  return commands;
}

export async function planLine(raw: unknown): Promise<unknown> {
  const { plan, keys } = planInput.parse(raw);
  const problems = problemsOfPlan(plan);
  const sets = keys ?? [[], ...keyNames(plan).map((name) => [name])];
  const canBeMade = !problems.some(({ weight }) => weight === 'error');
  const assertions = [];
  for (const assertion of plan.assertions) {
    const { holds, keys: by, broken } = checkAssertion(plan, assertion);
    assertions.push({
      holds,
      ...(broken && { keys: by, steps: broken.by, ...(canBeMade && { by: await sent(plan, broken.by) }) }),
    });
  }
  return {
    problems,
    bytes: bytesOfPlan(plan),
    reach: sets.map((set) => ({ keys: set, can: reach(plan, new Set(set)).map(({ can }) => can) })),
    assertions,
  };
}
