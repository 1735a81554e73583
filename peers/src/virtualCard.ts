/** A card for the virtual reader, as a program: KIND PORT. It goes on until it is ended. */
import { randomBytes } from 'node:crypto';
import { connect } from 'node:net';
import { blankFiles, blankSectors, FilesCard, SectorsCard } from '@rawbits/core/chip';
import { VirtualReader } from './virtualReader.ts';

const [kind, port] = process.argv.slice(2);
const card =
  kind === 'sectors'
    ? new SectorsCard(blankSectors('1K', Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4)))
    : new FilesCard(
        blankFiles({ generation: 2, masterKey: 'aes', uid: Uint8Array.of(4, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6) }),
      );
const reader = new VirtualReader(card, (count) => new Uint8Array(randomBytes(count)));

/** The reader's service may not listen yet. */
function dial(): void {
  const socket = connect(Number(port), '127.0.0.1');
  socket.on('data', (bytes) => {
    const answer = reader.take(bytes);
    if (answer.length > 0) socket.write(answer);
  });
  socket.on('error', () => setTimeout(dial, 50));
}
dial();
