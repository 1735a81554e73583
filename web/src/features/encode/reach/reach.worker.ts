/** Reach in a worker of its own, so that typing is never held up; and ways played on a simulated card. */
import type { ChipPlan } from '@rawbits/api';
import { type FilesCard, SectorsCard, type SectorsMemory, sectorFrame } from '@rawbits/core/chip';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { Exchange, type ExchangeLine, FilesHost, SectorsHost, type TagFrame, TagHost } from '@rawbits/core/host';
import {
  type Assertion,
  checkAgainst,
  type Plan,
  Player,
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
import { expose } from 'comlink';

export interface Can {
  can: string;
  by: { do: string }[];
}
export interface Held {
  assertion: Assertion;
  holds: boolean;
  keys: string[];
  broken: Can | null;
  failure?: Failure;
}
export interface Answer {
  abilities: Can[];
  held: Held[];
  /** All that could be said of the card. */
  sayable: readonly string[];
  ms: number;
}

const draw = (count: number): Uint8Array => crypto.getRandomValues(new Uint8Array(count));

const worker = {
  answer(plan: ChipPlan, keys: string[]): Answer {
    const began = performance.now();
    const reaches = reachesOfAny(plan);
    const abilities = reaches.reach(new Set(keys));
    const held = plan.assertions.map((assertion): Held => {
      try {
        return checkAgainst(reaches, assertion);
      } catch (error) {
        return { assertion, holds: false, keys: [], broken: null, failure: failureOf(error) };
      }
    });
    return { abilities, held, sayable: reaches.sayable, ms: performance.now() - began };
  },

  /** Takes steps on a simulated card with the plan on it, under keys that stand in for the plan's; gives what went to and fro. */
  async play(plan: ChipPlan, steps: readonly { do: string }[]): Promise<ExchangeLine[]> {
    const exchange = new Exchange();
    if (plan.kind === 'tag') await playTag(plan, steps as TagStep[], exchange);
    else if (plan.kind === 'sectors') await playSectors(plan, steps as SectorStep[], exchange);
    else await playFiles(plan, steps as Step[], exchange);
    return exchange.lines;
  },
};

async function playTag(plan: TagPlan, steps: readonly TagStep[], exchange: Exchange): Promise<void> {
  const transport = tagTransport(await standInTag(plan));
  const transmitTag = async (frame: string, about: TagFrame) => {
    const heard = await transport.transmitTag(frame, about);
    exchange.noteTagFrame(about, frame, heard);
    return heard;
  };
  await new TagPlayer(new TagHost({ transmitTag })).take(steps);
}

async function playSectors(plan: SectorPlan, steps: readonly SectorStep[], exchange: Exchange): Promise<void> {
  const hostOf = ({ memory, uid }: { memory: SectorsMemory; uid: Uint8Array }) => {
    const card = new SectorsCard(memory);
    const transmitRaw = async (frame: Uint8Array) => {
      const answer = sectorFrame(card, frame);
      exchange.noteFrame(frame, answer);
      return answer;
    };
    return new SectorsHost({ transmitRaw }, uid);
  };
  const blank = () => hostOf(standInBlankSectors(plan));
  await new SectorPlayer(hostOf(await standInSectors(plan)), plan, standInSectorKey, blank).take(steps);
}

async function playFiles(plan: Plan, steps: readonly Step[], exchange: Exchange): Promise<void> {
  const hostOf = (card: FilesCard) => {
    const transmit = async (apdu: Uint8Array) => {
      const answer = card.transmit(apdu, draw);
      exchange.note(apdu, answer);
      return answer;
    };
    return new FilesHost({ transmit }, draw);
  };
  const blank = () => {
    const { card, uid } = standInBlank(plan);
    return { host: hostOf(card), uid, known: standInKnown };
  };
  await new Player(hostOf(await standInCard(plan, draw)), plan, standInKeys(plan), blank).take(steps);
}

export type ReachWorker = typeof worker;

expose(worker);
