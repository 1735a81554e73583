/** A chip on a pad as a run works on it, whatever kind of card it is. */
import type { ChipPlan } from '@rawbits/api';
import { fail } from '@rawbits/core/failure';
import {
  bringCard,
  bringSectors,
  bringTag,
  type CardStep,
  CHIPS,
  compareCard,
  compareSectors,
  compareTag,
  FACTORY,
  freeByGrant,
  freeCard,
  freeSectors,
  freeTag,
  grantsOf,
  type Known,
  type Plan,
  sectorsToBring,
  tagNotBlank,
  trailerOfSector,
} from '@rawbits/core/plan';
import type { KeyMaterial, Material } from '../keys/index.ts';
import { allowed, blankness, type OnPad, uidOf } from './recognise.ts';
import { ringFor } from './ring.ts';

type Before = (step: CardStep) => Promise<void>;

export interface Bring {
  version: number;
  /** The version that it has, where it is another. */
  was?: number;
  known: Known;
  before: Before;
  begun: (step: CardStep) => boolean;
}

export interface Chip {
  /** The identifier that it has for good; undefined where it hides it and nothing opens it. */
  uid(): Promise<Uint8Array | undefined>;
  /** Why it is no blank; undefined where it is one. */
  notBlank(version: number, takesUsed: boolean): Promise<string | undefined>;
  bring(uid: Uint8Array, about: Bring): Promise<void>;
  /** What differs from a version of the plan, read back. */
  differs(uid: Uint8Array, version: number, known: Known): Promise<CardStep[]>;
  /** Frees it; gives what stays for good. */
  free(uid: Uint8Array, plan: ChipPlan, before?: Before): Promise<string[]>;
  handBack(uid: Uint8Array, version: number, under: string, before: Before): Promise<string[]>;
}

type Versions = ReadonlyMap<number, ChipPlan>;

/** The chip that lies there; undefined where it is of another kind than the plan is for. */
export function chipOn(card: OnPad, kind: ChipPlan['kind'], versions: Versions, material: Material): Chip | undefined {
  if (card.kind !== kind) return undefined;
  return new { files: FilesChip, sectors: SectorsChip, tag: TagChip }[kind](card, versions, material);
}

class FilesChip implements Chip {
  constructor(
    private readonly card: OnPad,
    private readonly versions: Versions,
    private readonly material: Material,
  ) {}

  private plan(version: number): Plan {
    const plan = this.versions.get(version);
    return plan?.kind === 'files' ? plan : fail('plan-version', `Version ${version} of the plan is not there.`);
  }

  uid(): Promise<Uint8Array | undefined> {
    return uidOf(this.card, [...this.versions.values()], this.material);
  }

  async notBlank(_version: number, takesUsed: boolean): Promise<string | undefined> {
    const there = await blankness(this.card.host);
    if (!there) return 'This card is not blank: its master key is not the factory’s.';
    return there.length > 0 && !takesUsed
      ? `This card has something on it that nobody here put there: ${there.join(', ')}.`
      : undefined;
  }

  /** Keys as one version has them first, then as all others. */
  private ring(uid: Uint8Array, version: number) {
    const own = this.plan(version);
    const others = [...this.versions.values()].filter(
      (plan): plan is Plan & { kind: 'files' } => plan.kind === 'files',
    );
    return ringFor(this.material, [own, ...others.filter((plan) => plan !== own).toReversed()], uid);
  }

  async bring(uid: Uint8Array, { version, was, known, before, begun }: Bring): Promise<void> {
    const about = { plan: this.plan(version), ring: this.ring(uid, version), known, selected: this.card.selected };
    await bringCard(this.card.host, { ...about, ...(was !== undefined && { was: this.plan(was) }), before, begun });
  }

  async differs(uid: Uint8Array, version: number, known: Known): Promise<CardStep[]> {
    const plan = this.plan(version);
    // A card that has just begun to draw its UID anew was selected by the one that it had.
    const selected = plan.randomUid && !this.card.hidesUid ? Uint8Array.of(8, 0, 0, 0) : this.card.selected;
    const about = { plan, ring: this.ring(uid, version), known, selected };
    return (await compareCard(this.card.host, about)).steps;
  }

  async free(uid: Uint8Array, plan: ChipPlan, before?: Before): Promise<string[]> {
    if (plan.kind !== 'files') return fail('plan-kind', `The plan is for ${CHIPS[plan.kind]}.`);
    const ring = ringFor(this.material, [plan], uid);
    return (await freeCard(this.card.host, { plan, ring, ...(before && { before }) })).stays;
  }

  async handBack(uid: Uint8Array, version: number, under: string, before: Before): Promise<string[]> {
    const plan = this.plan(version);
    const grant =
      grantsOf(plan).find((one) => one.under === under) ??
      fail('grant', `The plan on this card has no grant for "${under}".`, { field: 'under' });
    // The third party's key alone: the card's own comes out of the grant on it.
    const theirs =
      ringFor(this.material, [plan], uid)(under, null) ??
      fail('grant', `The key "${under}" is not at hand.`, { field: 'under' });
    return (await freeByGrant(this.card.host, plan, grant, theirs.now.bytes, undefined, before)).stays;
  }
}

/** A chip that tells everybody which one it is, and whose keys are the same on all: a sector card or a tag. */
abstract class OpenChip<K extends 'sectors' | 'tag'> implements Chip {
  protected abstract readonly kind: K;
  protected abstract readonly keyKind: KeyMaterial['kind'];

  constructor(
    protected readonly card: OnPad,
    private readonly versions: Versions,
    private readonly material: Material,
  ) {}

  abstract notBlank(version: number, takesUsed: boolean): Promise<string | undefined>;
  abstract bring(uid: Uint8Array, about: Bring): Promise<void>;
  abstract differs(uid: Uint8Array, version: number, known: Known): Promise<CardStep[]>;
  abstract free(uid: Uint8Array, plan: ChipPlan, before?: Before): Promise<string[]>;

  async uid(): Promise<Uint8Array> {
    return this.card.selected;
  }

  handBack(): Promise<string[]> {
    return fail('grant', `There are no hand-back grants on ${CHIPS[this.kind]}.`, { field: 'under' });
  }

  protected plan(version: number): PlanOf<K> {
    const plan = this.versions.get(version);
    return plan ? this.own(plan) : fail('plan-version', `Version ${version} of the plan is not there.`);
  }

  /** A plan of another kind of chip is thrown. */
  protected own(plan: ChipPlan): PlanOf<K> {
    if (plan.kind !== this.kind) fail('plan-kind', `The plan is for ${CHIPS[plan.kind]}.`);
    return plan as PlanOf<K>;
  }

  /**
   * The keys of a plan as they are in the store, the newest version first, or of whichever version of it names one; undefined
   * where it is not there.
   */
  protected readonly ringOf = (plan: ChipPlan) => (name: string) => {
    const others = [...this.versions.values()].filter((one) => one !== plan && !this.material.refusal(one));
    const key = [plan, ...others.toReversed()].map((one) => this.material.of(one, name)).find((one) => one);
    if (!key || key.versions.length === 0) return undefined;
    if (key.kind !== this.keyKind)
      fail('key-kind', `The key "${name}" of the store is of another kind than ${CHIPS[this.kind]} have.`, {
        field: 'keys',
      });
    const [now, ...before] = key.versions.map(({ asItIs }) => asItIs());
    return { now: now!, before };
  };

  protected about({ version, was, known, before }: Bring) {
    const plans = { plan: this.plan(version), ...(was !== undefined && { was: this.plan(was) }) };
    return { ...plans, ring: this.ringOf(plans.plan), known, before };
  }
}
type PlanOf<K> = Extract<ChipPlan, { kind: K }>;

class SectorsChip extends OpenChip<'sectors'> {
  protected readonly kind = 'sectors';
  protected readonly keyKind = 'sector';

  async notBlank(version: number): Promise<string | undefined> {
    for (const { number } of sectorsToBring(this.plan(version)))
      if (!(await allowed(() => this.card.sectors.authenticate(trailerOfSector(number), 'A', FACTORY))))
        return `This card is not blank: key A of sector ${number} is not the factory’s.`;
    return undefined;
  }

  async bring(_uid: Uint8Array, about: Bring): Promise<void> {
    await bringSectors(this.card.sectors, this.about(about));
  }

  differs(_uid: Uint8Array, version: number, known: Known): Promise<CardStep[]> {
    return compareSectors(this.card.sectors, {
      plan: this.plan(version),
      ring: this.ringOf(this.plan(version)),
      known,
    });
  }

  async free(_uid: Uint8Array, plan: ChipPlan, before?: Before): Promise<string[]> {
    await freeSectors(this.card.sectors, { plan: this.own(plan), ring: this.ringOf(plan), ...(before && { before }) });
    return [];
  }
}

class TagChip extends OpenChip<'tag'> {
  protected readonly kind = 'tag';
  protected readonly keyKind = 'tag';

  async notBlank(_version: number, takesUsed: boolean): Promise<string | undefined> {
    const hasPassword = (await this.card.tag.configuration()) === undefined;
    return takesUsed && !hasPassword ? undefined : tagNotBlank(this.card.tag);
  }

  async bring(_uid: Uint8Array, about: Bring): Promise<void> {
    await bringTag(this.card.tag, this.about(about));
  }

  differs(_uid: Uint8Array, version: number, known: Known): Promise<CardStep[]> {
    return compareTag(this.card.tag, { plan: this.plan(version), ring: this.ringOf(this.plan(version)), known });
  }

  async free(_uid: Uint8Array, plan: ChipPlan, before?: Before): Promise<string[]> {
    return freeTag(this.card.tag, { plan: this.own(plan), ring: this.ringOf(plan), ...(before && { before }) });
  }
}
