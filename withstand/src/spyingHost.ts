/** A device host of somebody's own: it offers a reader and a pad, and writes down everything that it is sent. */
import { Dial } from '@rawbits/api/dial';
import { WebSocket } from 'ws';

let made = 0;

export function spyingHost(url: string, kind: 'rig' | 'desk', token: string) {
  const heard: string[] = [];
  const device = `own-${Date.now()}-${++made}`;
  let site: string | null = null;
  const dial = new Dial({
    open: (address, protocol, options) => new WebSocket(address, protocol, options),
    servers: () => [url],
    token,
    kind,
    version: '',
    serve: (served) => {
      site = served;
    },
    answer: async (method, params) => {
      if (method === 'log') await new Promise((resolve) => setTimeout(resolve, 1000));
      heard.push(JSON.stringify({ method, params }));
      if (method === 'log') return { epoch: 'own', entries: [] };
      if (method !== 'devices') return {};
      const readers = [{ id: device, controller: null }];
      return { site, cards: [], readers, controllers: [], pads: [{ id: 'pad', name: 'Own pad' }] };
    },
  });
  return { dial, device, heard };
}

/** A plan whose one file is read by a key of the store. */
export const planOf = (from: { set: string; key: string }, each: 'card' | 'all') => ({
  schema: 'rawbits/plan@1',
  kind: 'files',
  name: `Own plan ${Date.now()} ${++made}`,
  keys: [{ name: from.key, from, each }],
  applications: [
    {
      id: '5A00F1',
      keys: [from.key],
      files: [
        {
          kind: 'standard',
          number: 1,
          size: 32,
          rights: { read: 0, write: 0, both: 0, change: 0 },
          fields: [{ name: 'number', length: 4, content: { is: 'number', of: 'number' } }],
        },
      ],
    },
  ],
});
