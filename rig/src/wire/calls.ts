/** What a server can ask of the rig, and what the rig does then. */
import type { WireAnswer, WireMethod, WireParams, wireCalls } from '@rawbits/api';
import { type Answering, Dial } from '@rawbits/api/dial';
import { PLACE_DIGITS } from '@rawbits/core/access';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { WebSocket } from 'ws';
import type { z } from 'zod';
import type { Rig } from '../world/rig.ts';

type Params<M extends WireMethod> = z.output<(typeof wireCalls)[M]['params']>;
type Calls = { [M in WireMethod]: (params: Params<M>) => WireAnswer<M> | Promise<WireAnswer<M>> };

/** `pieceMs`: how long a piece of a load takes on its line. `served` is the site that the server has us serve. */
function callsOf(rig: Rig, pieceMs: number, served: () => string | null): Calls {
  /** Only for the site that the devices were set up for. */
  const ours = () => {
    rig.serve(served());
    return rig;
  };
  return {
    devices: () => ({
      site: rig.site,
      cards: rig.cards,
      readers: rig.readers,
      controllers: rig.controllerStates,
      pads: rig.padsOffered,
    }),
    claim: ({ site }) => {
      rig.claim(site);
      return {};
    },
    setUp: ({ site, setup }) => {
      rig.claim(site);
      rig.setUp({ site, ...setup });
      return {};
    },
    present: ({ card, reader }) => ours().hold(card, reader),
    setReader: ({ reader, setUp }) => {
      ours().setReader(reader, setUp);
      return {};
    },
    beginLoad: ({ controller, load, base }) => ({ taken: ours().controller(controller).beginLoad(load, base) }),
    loadPiece: async ({ controller, load, seq, changes }) => {
      ours().controller(controller).takePiece(load, seq, changes);
      // A line to a controller is slow; so is this one.
      await rig.clock.after(pieceMs);
      return {};
    },
    commitLoad: ({ controller, load, digest }) => {
      ours().controller(controller).commitLoad(load, digest);
      return {};
    },
    parts: ({ controller, prefix }) => {
      const there = ours().controller(controller);
      return prefix.length < PLACE_DIGITS
        ? { digests: there.digestsBelow(prefix) }
        : { hashes: there.hashesAt(prefix) };
    },
    padLay: ({ cards, pad }) => {
      ours().padOf(pad).lay(cards);
      return {};
    },
    pad: ({ pad }) => {
      const there = ours().padOf(pad);
      there.watched(rig.clock.now());
      return { cards: [...there.cards], laid: there.laid };
    },
    padConnect: ({ pad }) => {
      const { uid, atqa, sak, ats, isTag } = ours().padOf(pad).connect();
      return { uid: hexOf(uid), atqa: hexOf(atqa), sak, ats: hexOf(ats), isTag };
    },
    padTransmit: ({ apdu, pad }) => ({ answer: hexOf(ours().padOf(pad).transmit(bytesOf(apdu, 'apdu'))) }),
    padTransmitKeys: ({ apdu, pad }) => ({ answer: hexOf(ours().padOf(pad).transmit(bytesOf(apdu, 'apdu'))) }),
    padTransmitRaw: ({ frame, pad }) => ({ answer: hexOf(ours().padOf(pad).transmitRaw(bytesOf(frame, 'frame'))) }),
    padAskTag: ({ frame, pad }) => ({ heard: ours().padOf(pad).transmitTag(frame) }),
    padTransmitTag: ({ frame, pad }) => ({ heard: ours().padOf(pad).transmitTag(frame) }),
    padDisconnect: ({ pad }) => {
      ours().padOf(pad).disconnect();
      return {};
    },
    padTear: ({ at, after, pad }) => {
      ours().padOf(pad).tearAtNext(at, after);
      return {};
    },
    log: ({ waitMs, ...place }) => ours().log.after(place, waitMs),
  };
}

export interface RigDial {
  servers: () => readonly string[];
  token: string;
  version: string;
  pieceMs?: number;
  /** Told when a server has taken the rig in. */
  connected?: () => void;
}

/** Dials in with all that a rig offers. */
export function dialIn(rig: Rig, { servers, token, version, pieceMs = 30, connected }: RigDial): Dial {
  let site: string | null = null;
  const calls = callsOf(rig, pieceMs, () => site);
  const answer: Answering = async (method, params) => (calls[method] as (p: unknown) => unknown)(params);
  const serve = (served: string | null) => {
    site = served;
    connected?.();
  };
  const open = (address: URL, protocol: string, options: object) => new WebSocket(address, protocol, options);
  return new Dial({ open, servers, token, kind: 'rig', version, answer, serve });
}

export type { WireParams };
