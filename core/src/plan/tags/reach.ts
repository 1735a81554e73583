/**
 * Reach on a rewritable tag. What it sends everybody hears, and can send from another; its blocks are read and written by whoever
 * has its password, or by everybody where it has none, and what is locked by nobody. Nothing that one command does opens
 * another, so every way is the shortest.
 */
import type { Reaches } from '../reach/index.ts';
import { keyNamesOfTag, lockedBlocks, PASSWORD_BLOCK, sentBlocks, type TagPlan } from './plan.ts';

export type TagStep =
  | { do: 'listen' }
  | { do: 'write another tag' }
  | { do: 'read block' | 'write block' | 'lock block'; block: number; with: string | null };

export interface TagAbility {
  can: string;
  by: TagStep[];
}

const BLOCKS = [0, 1, 2, 3, 4, 5, 6, 7] as const;
const LISTEN: TagStep = { do: 'listen' };
const COPY = 'copy what it sends onto another tag';

/** All that can be done with some of the plan’s keys. */
export function reachOfTag(plan: TagPlan, keys: ReadonlySet<string>): TagAbility[] {
  const { password } = plan;
  const found: TagAbility[] = [
    { can: 'read what it sends', by: [LISTEN] },
    { can: COPY, by: [LISTEN, { do: 'write another tag' }] },
  ];
  if (password !== null && !keys.has(password)) return found;
  const locked = new Set(lockedBlocks(plan));
  const step = (what: 'read block' | 'write block' | 'lock block', block: number): TagStep => ({
    do: what,
    block,
    with: password,
  });
  const open = BLOCKS.filter((block) => !locked.has(block));
  for (const block of BLOCKS) found.push({ can: `read block ${block}`, by: [step('read block', block)] });
  for (const block of open) found.push({ can: `write block ${block}`, by: [step('write block', block)] });
  for (const block of open) found.push({ can: `lock block ${block} for good`, by: [step('lock block', block)] });
  const sends = [0, ...Array.from({ length: sentBlocks(plan) }, (_, i) => i + 1)].find((block) =>
    open.includes(block as 0),
  );
  if (sends !== undefined) found.push({ can: 'change what it sends', by: [step('write block', sends)] });
  const changes = [PASSWORD_BLOCK, 0].map((block) => step('write block', block));
  if (password === null && open.includes(0) && open.includes(PASSWORD_BLOCK))
    found.push({ can: 'set a password', by: changes });
  if (password !== null && open.includes(PASSWORD_BLOCK))
    found.push({ can: 'change the password', by: [step('write block', PASSWORD_BLOCK)] });
  if (password !== null && open.includes(0)) found.push({ can: 'take the password off', by: [step('write block', 0)] });
  return found;
}

/** What is asked of a plan of a tag. */
export const reachesOfTag = (plan: TagPlan): Reaches<TagStep> => ({
  keys: keyNamesOfTag(plan),
  reach: (keys) => reachOfTag(plan, keys),
  sayable: [
    'read what it sends',
    COPY,
    'change what it sends',
    'set a password',
    'change the password',
    'take the password off',
    ...BLOCKS.flatMap((block) => [`read block ${block}`, `write block ${block}`, `lock block ${block} for good`]),
  ],
});
