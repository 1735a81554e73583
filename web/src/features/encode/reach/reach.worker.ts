/** Reach in a worker of its own, so that typing is never held up; and ways played on a simulated card. */
import type { ChipPlan } from '@rawbits/api';
import type { FilesCard } from '@rawbits/core/chip';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { Exchange, FilesHost, type TagFrame, TagHost } from '@rawbits/core/host';
import {
  type Assertion,
  checkAgainst,
  Player,
  reachesOfAny,
  type Step,
  standInBlank,
  standInCard,
  standInKeys,
  standInKnown,
  standInTag,
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
  async play(plan: ChipPlan, steps: readonly { do: string }[]): Promise<{ command: string; answer: string }[]> {
    const exchange = new Exchange();
    if (plan.kind === 'tag') {
      const transport = tagTransport(await standInTag(plan));
      const transmitTag = async (frame: string, about: TagFrame) => {
        const heard = await transport.transmitTag(frame, about);
        exchange.noteTagFrame(about, frame, heard);
        return heard;
      };
      await new TagPlayer(new TagHost({ transmitTag })).take(steps as TagStep[]);
      return exchange.lines;
    }
    if (plan.kind !== 'files') return [];
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
    const host = hostOf(await standInCard(plan, draw));
    await new Player(host, plan, standInKeys(plan), blank).take(steps as Step[]);
    return exchange.lines;
  },
};
export type ReachWorker = typeof worker;

expose(worker);
