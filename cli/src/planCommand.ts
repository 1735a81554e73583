/** What `rawbits plan` does with one line: what is wrong with a chip plan, what it takes, and what its keys can do. */
import { blankSectors, SectorsCard, sectorFrame } from '@rawbits/core/chip';
import { hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import {
  type Assertion,
  bytesOfPlan,
  checkAgainst,
  encodeSectors,
  type Plan,
  Player,
  planSchema,
  problemsOfPlan,
  problemsOfSectors,
  type Reaches,
  reachesOf,
  reachesOfSectors,
  type SectorPlan,
  SectorPlayer,
  type SectorStep,
  type Step,
  sectorPlanSchema,
  standInCard,
  standInKeys,
  standInSectorKey,
} from '@rawbits/core/plan';
import { z } from 'zod';

const keys = z.array(z.array(z.string()).max(40)).max(100).optional();
/** Sets of keys to be asked about; without them nobody's, and each key by itself. */
const filesInput = z.strictObject({ plan: planSchema, keys });
const sectorsInput = z.strictObject({ plan: sectorPlanSchema, keys });

/** What a card draws, so that a run can be repeated. */
const draw = (count: number): Uint8Array => Uint8Array.from({ length: count }, (_, i) => i & 0xff);
const UID = Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4);

/** The commands of some steps as they are sent to a card with the plan on it, under keys that stand in for the plan's. */
async function sent(plan: Plan, steps: readonly Step[]): Promise<string[]> {
  const card = await standInCard(plan, draw);
  const commands: string[] = [];
  const transmit = async (apdu: Uint8Array) => {
    commands.push(hexOf(apdu));
    return card.transmit(apdu, draw);
  };
  await new Player(new FilesHost({ transmit }, draw), plan, standInKeys(plan)).take(steps);
  return commands;
}

/** The same as frames of a sector card; a block that is counted with holds a value first. */
async function sentFrames(plan: SectorPlan, steps: readonly SectorStep[]): Promise<string[]> {
  const card = new SectorsCard(blankSectors(plan.size, UID));
  const frames: string[] = [];
  let told = false;
  const transmitRaw = async (frame: Uint8Array) => {
    if (told) frames.push(hexOf(frame));
    return sectorFrame(card, frame);
  };
  const host = new SectorsHost({ transmitRaw }, UID);
  for (const step of steps)
    if (step.do === 'increment' || step.do === 'decrement') {
      await host.authenticate(step.block, 'A', new Uint8Array(6).fill(0xff));
      await host.writeValue(step.block, 5);
    }
  await encodeSectors(host, plan, standInSectorKey);
  told = true;
  await new SectorPlayer(host, plan, standInSectorKey).take(steps);
  return frames;
}

/** What is told of any plan: what its keys can do, and of each assertion whether it holds, or what breaks it. */
async function answered<S>(
  of: Reaches<S>,
  sets: string[][] | undefined,
  assertions: readonly Assertion[],
  sentBy: ((steps: readonly S[]) => Promise<string[]>) | undefined,
) {
  const held = [];
  for (const assertion of assertions) {
    const { holds, keys: by, broken } = checkAgainst(of, assertion);
    held.push({ holds, ...(broken && { keys: by, steps: broken.by, ...(sentBy && { by: await sentBy(broken.by) }) }) });
  }
  const asked = sets ?? [[], ...of.keys.map((name) => [name])];
  return {
    reach: asked.map((set) => ({ keys: set, can: of.reach(new Set(set)).map(({ can }) => can) })),
    assertions: held,
  };
}

export async function planLine(raw: unknown): Promise<unknown> {
  const kind = (raw as { plan?: { kind?: unknown } } | null)?.plan?.kind;
  if (kind === 'sectors') {
    const { plan, keys: sets } = sectorsInput.parse(raw);
    const problems = problemsOfSectors(plan);
    const canBeMade = !problems.some(({ weight }) => weight === 'error');
    const play = canBeMade ? (steps: readonly SectorStep[]) => sentFrames(plan, steps) : undefined;
    return { problems, ...(await answered(reachesOfSectors(plan), sets, plan.assertions, play)) };
  }
  const { plan, keys: sets } = filesInput.parse(raw);
  const problems = problemsOfPlan(plan);
  const canBeMade = !problems.some(({ weight }) => weight === 'error');
  const play = canBeMade ? (steps: readonly Step[]) => sent(plan, steps) : undefined;
  const rest = await answered(reachesOf(plan), sets, plan.assertions, play);
  return { problems, bytes: bytesOfPlan(plan), ...rest };
}
