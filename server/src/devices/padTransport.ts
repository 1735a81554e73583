/** The way to a card or tag on a pad of a device host: the calls of `core/host`, over the host's line. */
import { OPEN_TAG_FRAME } from '@rawbits/api';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import type { TagTransport, Transport } from '@rawbits/core/host';
import type { Devices } from './devices.ts';

export class PadTransport implements Transport, TagTransport {
  /** As the card answered when it was selected, besides its identifier. */
  sak = 0;
  /** Whether it is a tag, which was told from others by where it comes from. */
  isTag = false;

  constructor(
    private readonly devices: Devices,
    private readonly site: string,
    /** Without it the first of the rig. */
    private readonly padId?: string,
    /** Whether keys may be set over it: then it goes over the host's own line alone, never by way of the database. */
    private readonly setsKeys = false,
  ) {}

  async connect(): Promise<{ uid: Uint8Array; ats: Uint8Array }> {
    const { uid, ats, sak, isTag } = await this.devices.pad(this.site, 'padConnect', {}, this.padId);
    this.sak = sak;
    this.isTag = isTag;
    return { uid: bytesOf(uid, 'uid'), ats: bytesOf(ats, 'ats') };
  }

  async transmit(apdu: Uint8Array): Promise<Uint8Array> {
    const method = this.setsKeys ? 'padTransmitKeys' : 'padTransmit';
    const { answer } = await this.devices.pad(this.site, method, { apdu: hexOf(apdu) }, this.padId);
    return bytesOf(answer, 'answer');
  }

  async transmitRaw(frame: Uint8Array): Promise<Uint8Array> {
    return bytesOf(
      (await this.devices.pad(this.site, 'padTransmitRaw', { frame: hexOf(frame) }, this.padId)).answer,
      'answer',
    );
  }

  async transmitTag(frame: string): Promise<string> {
    const method = OPEN_TAG_FRAME.test(frame) ? 'padAskTag' : 'padTransmitTag';
    return (await this.devices.pad(this.site, method, { frame }, this.padId)).heard;
  }

  async disconnect(): Promise<void> {
    await this.devices.pad(this.site, 'padDisconnect', {}, this.padId);
  }
}
