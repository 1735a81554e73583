/** What a server can ask of a desk: its pads, and nothing else. */
import { randomBytes } from 'node:crypto';
import type { WireMethod, WireParams } from '@rawbits/api';
import type { Answering } from '@rawbits/api/dial';
import { fail } from '@rawbits/core/failure';
import type { Pads } from './pads.ts';

type Params = { pad?: string };
const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms).unref());

/** `site` is the one that the server has it serve. */
export function answeringFor(pads: Pads, site: () => string | null): Answering {
  const epoch = `desk-${randomBytes(8).toString('hex')}`;
  return async (method: WireMethod, params: unknown): Promise<unknown> => {
    const { pad } = params as Params;
    switch (method) {
      case 'devices':
        await pads.look();
        return { site: site(), cards: [], readers: [], controllers: [], pads: pads.offered };
      case 'claim':
        return {};
      case 'pad':
        return pads.lies(pad);
      case 'padConnect':
        return pads.connect(pad);
      case 'padTransmit':
      case 'padTransmitKeys':
        return pads.transmit(pad, (params as WireParams<'padTransmit'>).apdu);
      case 'padTransmitRaw':
        return pads.transmitRaw(pad, (params as WireParams<'padTransmitRaw'>).frame);
      case 'padDisconnect':
        await pads.disconnect(pad);
        return {};
      case 'log':
        // Nothing is ever presented at a desk.
        await wait((params as WireParams<'log'>).waitMs);
        return { epoch, entries: [] };
      default:
        return fail('not-here', 'A desk has card readers alone.');
    }
  };
}
