/** Our host through PC/SC, as a program: KIND. Prints what it found as JSON. The virtual reader has two places, the card is in the first. */
import { randomBytes } from 'node:crypto';
import { hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import { PcscTransport, readersThere } from '../../desk/src/index.ts';

const ZERO = { kind: 'aes128' as const, bytes: new Uint8Array(16) };
const FREE = { read: 'free', write: 'free', both: 'free', change: 0 } as const;

async function files(transport: PcscTransport): Promise<object> {
  const host = new FilesHost(transport, (count) => new Uint8Array(randomBytes(count)));
  await host.authenticate('newer', 0, ZERO);
  await host.createApplication(0x3042f5, 0x0f, 'aes128', 1);
  await host.select(0x3042f5);
  await host.authenticate('aes', 0, ZERO);
  await host.createData('standard', 0, 'enciphered', { ...FREE, read: 0, write: 0 }, 100);
  const data = Uint8Array.from({ length: 100 }, (_, i) => i);
  await host.write(0, 0, data, 'enciphered');
  return { read: hexOf(await host.read(0, 0, 100, 'enciphered')) === hexOf(data), own: hexOf(await host.uid()) };
}

async function sectors(transport: PcscTransport, uid: Uint8Array): Promise<object> {
  const host = new SectorsHost(transport, uid);
  const refused = await host.read(4).catch((error: Error) => error.message);
  await host.authenticate(4, 'A', new Uint8Array(6).fill(0xff));
  await host.write(4, new Uint8Array(16).fill(0x5a));
  return { refused, read: hexOf(await host.read(4)) };
}

async function main(): Promise<void> {
  const transport = new PcscTransport('00 00');
  const readers = await readersThere();
  const { uid, ats } = await transport.connect();
  const found = process.argv[2] === 'sectors' ? await sectors(transport, uid) : await files(transport);
  await transport.disconnect();
  console.log(JSON.stringify({ readers: readers.length, uid: hexOf(uid), ats: hexOf(ats), ...found }));
}

main().catch((error: Error) => {
  console.log(JSON.stringify({ failed: error.message }));
});
