/** What `rawbits plan` does with one line: what is wrong with a chip plan, what it takes, and what its keys can do. */
import { type FilesCard, SectorsCard, type SectorsMemory, sectorFrame } from '@rawbits/core/chip';
import { hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost, TagHost, type TagTransport } from '@rawbits/core/host';
import {
  type AnyPlan,
  anyPlanSchema,
  bytesOfPlan,
  checkAgainst,
  type Plan,
  Player,
  problemsOf,
  reachesOfAny,
  type SectorPlan,
  SectorPlayer,
  type SectorStep,
  type Step,
  standInBlank,
  standInBlankSectors,
  standInCard,
  standInKeys,
  standInKnown,
  standInSectorKey,
  standInSectors,
  standInTag,
  type TagPlan,
  TagPlayer,
  type TagStep,
  tagTransport,
} from '@rawbits/core/plan';
import { z } from 'zod';

const keys = z.array(z.array(z.string()).max(40)).max(100).optional();
/** Sets of keys to be asked about; without them nobody's, and each key by itself. */
const input = z.strictObject({ plan: anyPlanSchema, keys });

/** What a card draws, so that a run can be repeated. */
const draw = (count: number): Uint8Array => Uint8Array.from({ length: count }, (_, i) => i & 0xff);

/** The commands of some steps as they are sent to a card with the plan on it, under keys that stand in for the plan's. */
async function sent(plan: Plan, steps: readonly Step[]): Promise<string[]> {
  const card = await standInCard(plan, draw);
  const commands: string[] = [];
  const transmitTo = (to: FilesCard) => async (apdu: Uint8Array) => {
    commands.push(hexOf(apdu));
    return to.transmit(apdu, draw);
  };
  const blank = () => {
    const { card: own, uid } = standInBlank(plan);
    const host = new FilesHost({ transmit: transmitTo(own) }, draw);
    return { host, uid, known: standInKnown };
  };
  await new Player(new FilesHost({ transmit: transmitTo(card) }, draw), plan, standInKeys(plan), blank).take(steps);
  return commands;
}

/** The same as frames of a sector card. */
async function sentFrames(plan: SectorPlan, steps: readonly SectorStep[]): Promise<string[]> {
  const frames: string[] = [];
  const hostOf = ({ memory, uid }: { memory: SectorsMemory; uid: Uint8Array }) => {
    const card = new SectorsCard(memory);
    const transmitRaw = async (frame: Uint8Array) => {
      frames.push(hexOf(frame));
      return sectorFrame(card, frame);
    };
    return new SectorsHost({ transmitRaw }, uid);
  };
  const blank = () => hostOf(standInBlankSectors(plan));
  await new SectorPlayer(hostOf(await standInSectors(plan)), plan, standInSectorKey, blank).take(steps);
  return frames;
}

/** The frames of bits of some steps, as they are sent to a tag with the plan on it. */
async function sentBits(plan: TagPlan, steps: readonly TagStep[]): Promise<string[]> {
  const transport = tagTransport(await standInTag(plan));
  const frames: string[] = [];
  const transmitTag: TagTransport['transmitTag'] = (frame, about) => {
    frames.push(frame);
    return transport.transmitTag(frame, about);
  };
  await new TagPlayer(new TagHost({ transmitTag })).take(steps);
  return frames;
}

/** What is sent for some steps of a reach, by the kind of the plan. */
function sentFor(plan: AnyPlan, steps: readonly { do: string }[]): Promise<string[]> {
  if (plan.kind === 'files') return sent(plan, steps as readonly Step[]);
  return plan.kind === 'sectors'
    ? sentFrames(plan, steps as readonly SectorStep[])
    : sentBits(plan, steps as readonly TagStep[]);
}

/** A plan that does not say its kind is one of a file-system card. */
const withKind = (raw: unknown): unknown => {
  const { plan } = (raw ?? {}) as { plan?: unknown };
  if (typeof plan !== 'object' || plan === null || 'kind' in plan) return raw;
  return { ...(raw as object), plan: { kind: 'files', ...plan } };
};

export async function planLine(raw: unknown): Promise<unknown> {
  const { plan, keys: sets } = input.parse(withKind(raw));
  const problems = problemsOf(plan);
  const canBeMade = !problems.some(({ weight }) => weight === 'error');
  const of = reachesOfAny(plan);
  const assertions = [];
  for (const assertion of plan.assertions) {
    const { holds, keys: by, broken } = checkAgainst(of, assertion);
    const told = broken && { keys: by, steps: broken.by, ...(canBeMade && { by: await sentFor(plan, broken.by) }) };
    assertions.push({ holds, ...told });
  }
  const asked = sets ?? [[], ...of.keys.map((name) => [name])];
  return {
    problems,
    ...(plan.kind === 'files' && { bytes: bytesOfPlan(plan) }),
    reach: asked.map((set) => ({ keys: set, can: of.reach(new Set(set)).map(({ can }) => can) })),
    assertions,
  };
}
