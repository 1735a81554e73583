/**
 * A controller of the rig. It receives pulses, cuts a number out of them and decides by what was loaded into it; a
 * load takes force only when it is complete and its digest agrees.
 */
import { createHash } from 'node:crypto';
import {
  type ControllerImage,
  type Credential,
  type Decision,
  decide,
  EMPTY_IMAGE,
  imageText,
} from '@rawbits/core/access';
import type { Bits } from '@rawbits/core/bits';
import { fail } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { type Pulse, receivePulses } from '@rawbits/core/line';
import { readMemory, writeMemory } from './memory.ts';

export const digestOf = (image: ControllerImage): string => createHash('sha256').update(imageText(image)).digest('hex');

export class Controller {
  private image: ControllerImage;
  private draft?: { loadId: string; image: ControllerImage };

  constructor(
    readonly id: string,
    private readonly file: string,
  ) {
    this.image = readMemory(file, EMPTY_IMAGE);
  }

  get digest(): string {
    return digestOf(this.image);
  }

  /** What it makes of the pulses on its line: the reads, each with its decision. */
  receive(pulses: readonly Pulse[], atMs: number): { bits: Bits; decision: Decision }[] {
    return receivePulses(pulses).reads.map(({ bits }) => ({ bits, decision: decide(this.image, bits, atMs) }));
  }

  beginLoad(loadId: string, comparesFacility: boolean): void {
    this.draft = { loadId, image: { formats: [], credentials: [], comparesFacility } };
  }

  takePiece(loadId: string, piece: { formats?: Format[]; credentials?: Credential[] }): void {
    const { image } = this.draftOf(loadId);
    image.formats.push(...(piece.formats ?? []));
    image.credentials.push(...(piece.credentials ?? []));
  }

  commitLoad(loadId: string, digest: string): void {
    const { image } = this.draftOf(loadId);
    if (digestOf(image) !== digest)
      fail('digest', `The controller ${this.id} got something else than was sent.`, undefined, 'Load it again.');
    writeMemory(this.file, image);
    this.image = image;
    this.draft = undefined;
  }

  private draftOf(loadId: string): { image: ControllerImage } {
    if (this.draft?.loadId !== loadId)
      fail('no-load', `The controller ${this.id} knows nothing of this load.`, undefined, 'Begin it again.');
    return this.draft!;
  }
}
