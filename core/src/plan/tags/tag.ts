/** A plan on a simulated tag, and the steps of a reach taken there. */
import { Bits } from '../../bits/index.ts';
import { wordOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import { TagHost, type TagTransport } from '../../host/index.ts';
import { blankTag, hears, type TagMemory } from '../../lf/index.ts';
import { standInKey } from '../bring/index.ts';
import { bringTag, type TagRing } from './bring.ts';
import { PASSWORD_BLOCK, type TagPlan } from './plan.ts';
import type { TagStep } from './reach.ts';

/** The way to a simulated tag. */
export const tagTransport = (memory: TagMemory): TagTransport => ({
  transmitTag: async (frame) => hears(memory, frame),
});

/** Four bytes that stand in for a password, made of its name. */
export const standInPassword = (name: string): Uint8Array => standInKey(name).subarray(0, 4);
const standInRing: TagRing = (name) => ({ now: standInPassword(name), before: [] });

/** A tag with the plan on it: it sends zeros, or a string of one bit. */
export async function standInTag(plan: TagPlan): Promise<TagMemory> {
  const memory = blankTag([0xe0150000, 0x00000001]);
  const bare: TagPlan = plan.sends.is === 'identification' ? { ...plan, sends: { ...plan.sends, fields: [] } } : plan;
  const known = { values: {}, bits: Bits.fromBinary('1') };
  await bringTag(new TagHost(tagTransport(memory)), { plan: bare, ring: standInRing, known });
  return memory;
}

/** Takes steps on a tag with the plan on it; what the tag does not do is thrown. */
export class TagPlayer {
  private heard = '';

  constructor(
    private readonly host: TagHost,
    private readonly passwords: (name: string) => Uint8Array = standInPassword,
  ) {}

  async take(steps: readonly TagStep[]): Promise<void> {
    for (const step of steps) await this.one(step);
  }

  private async one(step: TagStep): Promise<void> {
    if (step.do === 'listen') {
      this.heard = await this.host.listen();
      if (this.heard === '') this.refused('sends nothing');
      return;
    }
    if (step.do === 'write another tag') return this.copy();
    return this.withBlock(step);
  }

  private async withBlock(step: Extract<TagStep, { block: number }>): Promise<void> {
    const { host } = this;
    const password = step.with === null ? undefined : wordOf(this.passwords(step.with));
    const guarded = password === undefined ? {} : { password };
    const before = await host.read(step.block, password);
    if (before === undefined) this.refused(`does not show block ${step.block}`);
    if (step.do === 'read block') return;
    // The lowest bit but those of the configuration that say how the rest is read.
    const other = (before ^ (step.block === 0 ? 1 << 30 : 1)) >>> 0;
    await host.write(step.block, other, { ...guarded, lock: step.do === 'lock block' });
    const now = step.block === PASSWORD_BLOCK && password !== undefined ? other : password;
    if ((await host.read(step.block, now)) !== other) this.refused(`keeps block ${step.block}`);
    if (step.do === 'write block') return;
    await host.write(step.block, before, now === undefined ? {} : { password: now });
    if ((await host.read(step.block, now)) !== other) this.refused(`does not lock block ${step.block}`);
  }

  /** Another tag of whoever does it sends the same. */
  private async copy(): Promise<void> {
    const other = blankTag();
    const own = new TagHost(tagTransport(other));
    const words = this.heard.length / ROUNDS / 32;
    for (let i = 0; i < words; i++) await own.write(i + 1, Number.parseInt(this.heard.slice(32 * i, 32 * i + 32), 2));
    await own.write(0, words << 5);
    if ((await own.listen()) !== this.heard) this.refused('cannot be copied');
  }

  private refused(what: string): never {
    return fail('tag-refuses', `The tag ${what}.`);
  }
}

const ROUNDS = 3;
