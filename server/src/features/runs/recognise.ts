/** What lies on a pad: which chip, by the identifier that it has for good, and what is on file of it. */
import { randomBytes } from 'node:crypto';
import type { ChipPlan } from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { fail, RawBitsError } from '@rawbits/core/failure';
import { CardRefusal, Exchange, FilesHost, SectorsHost, TagHost } from '@rawbits/core/host';
import { factoryKey, keyOfPlan, type Plan, wayOf } from '@rawbits/core/plan';
import { and, eq } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import { PadTransport } from '../../devices/padTransport.ts';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import type { Material } from '../keys/index.ts';
import { type EncodedRow, encodedTable } from '../plans/index.ts';
import { ringFor } from './ring.ts';

const random = (count: number): Uint8Array => new Uint8Array(randomBytes(count));
const SPEAKS_APDUS = 0x20;
const RANDOM_UID = 8;
const SECTORS: Record<number, '1K' | '4K'> = { 8: '1K', 24: '4K' };

/** What the card itself refuses is told apart from a card that is gone. */
async function refusedOr<T>(answer: Promise<T>): Promise<T> {
  try {
    return await answer;
  } catch (error) {
    if (error instanceof HostRefusal && error.code === 'refused') fail('refused', error.message);
    throw error;
  }
}

/** The answer of a card; where it is gone before it gives one, that is noted, and thrown on. */
async function answeredOr<T>(answer: Promise<T>, note: () => void): Promise<T> {
  try {
    return await answer;
  } catch (error) {
    if (!(error instanceof RawBitsError)) note();
    throw error;
  }
}

/** A card that is selected: the way to it, and what went over it. */
export class OnPad {
  readonly exchange = new Exchange();
  readonly host: FilesHost;
  readonly sectors: SectorsHost;
  readonly tag: TagHost;

  private constructor(
    private readonly transport: PadTransport,
    /** As it was selected: drawn anew where it hides the other. */
    readonly selected: Uint8Array,
    readonly sak: number,
    readonly isTag: boolean,
  ) {
    this.host = new FilesHost(
      {
        transmit: async (apdu) => {
          const answer = await answeredOr(transport.transmit(apdu), () => this.exchange.note(apdu, undefined));
          this.exchange.note(apdu, answer);
          return answer;
        },
      },
      random,
    );
    this.sectors = new SectorsHost(
      {
        transmitRaw: async (frame) => {
          const answer = await answeredOr(refusedOr(transport.transmitRaw(frame)), () =>
            this.exchange.noteFrame(frame, undefined),
          );
          this.exchange.noteFrame(frame, answer);
          return answer;
        },
      },
      selected,
    );
    this.tag = new TagHost({
      transmitTag: async (frame, about) => {
        const heard = await answeredOr(transport.transmitTag(frame), () =>
          this.exchange.noteTagFrame(about, frame, undefined),
        );
        this.exchange.noteTagFrame(about, frame, heard);
        return heard;
      },
    });
  }

  static async select(app: App, site: string, pad: string | undefined, setsKeys = false): Promise<OnPad> {
    const transport = new PadTransport(app.devices, site, pad, setsKeys);
    const { uid } = await transport.connect();
    return new OnPad(transport, uid, transport.sak, transport.isTag);
  }

  get isFiles(): boolean {
    return (this.sak & SPEAKS_APDUS) !== 0;
  }

  /** What kind of plan it can be on: undefined for a card that is none of those. */
  get kind(): ChipPlan['kind'] | undefined {
    if (this.isTag) return 'tag';
    if (this.isFiles) return 'files';
    return this.sectorsSize === undefined ? undefined : 'sectors';
  }

  get sectorsSize(): '1K' | '4K' | undefined {
    return SECTORS[this.sak];
  }

  get hidesUid(): boolean {
    return this.selected.length === 4 && this.selected[0] === RANDOM_UID;
  }

  disconnect(): Promise<void> {
    return this.transport.disconnect().catch(() => {});
  }
}

/**
 * The identifier that a card has for good; undefined where it hides it and no key of the plans opens it: those that are the
 * same on all cards are tried.
 */
export async function uidOf(
  card: OnPad,
  plans: readonly ChipPlan[],
  material: Material,
): Promise<Uint8Array | undefined> {
  if (!card.hidesUid) return card.selected;
  for (const plan of plans)
    if (plan.kind === 'files' && !material.refusal(plan)) {
      const uid = await uidBy(card.host, plan, material);
      if (uid) return uid;
    }
  return undefined;
}

async function uidBy(host: FilesHost, plan: Plan, material: Material): Promise<Uint8Array | undefined> {
  const ring = ringFor(material, [plan], new Uint8Array(7));
  const levels = [
    { id: null, kind: plan.card.keyKind, keys: [plan.card.key] },
    ...plan.applications.map(({ id, keyKind, keys }) => ({ id, kind: keyKind, keys })),
  ];
  for (const { id, kind, keys } of levels) {
    if (!(await allowed(() => host.select(id === null ? 0 : Number.parseInt(id, 16))))) continue;
    for (const [slot, name] of keys.entries()) {
      if (name !== null && keyOfPlan(plan, name).each === 'card') continue;
      const own = name === null ? undefined : ring(name, id);
      const candidates = name === null ? [factoryKey(kind)] : own ? [own.now, ...own.before] : [];
      for (const key of candidates) {
        if (!(await allowed(() => host.authenticate(wayOf(key.kind), slot, key)))) continue;
        return host.uid();
      }
    }
  }
  return undefined;
}

/** Whether a card allows something; a card that is gone is thrown. */
export async function allowed(ask: () => Promise<unknown>): Promise<boolean> {
  try {
    await ask();
    return true;
  } catch (error) {
    if (error instanceof CardRefusal) return false;
    if (error instanceof RawBitsError && ['not-the-card', 'refused'].includes(error.code)) return false;
    throw error;
  }
}

/** Whether a card has the factory's key, and what is on it then; undefined where it has another. */
export async function blankness(host: FilesHost): Promise<string[] | undefined> {
  await host.select();
  for (const kind of ['aes128', 'tdes2', 'tdes3'] as const)
    if (await allowed(() => host.authenticate(wayOf(kind), 0, factoryKey(kind))))
      return (await host.applications()).map((id) => id.toString(16).toUpperCase().padStart(6, '0'));
  return undefined;
}

export async function onFile(db: Queryable, siteId: string, uid: Uint8Array): Promise<EncodedRow | undefined> {
  const own = and(eq(encodedTable.siteId, siteId), eq(encodedTable.uid, hexOf(uid)));
  return (await db.select().from(encodedTable).where(own))[0];
}
