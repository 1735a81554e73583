/** The host of a file-system card: its commands, one a method, under whichever session is authenticated. */
import { joined, littleEndian, xored } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';
import { FirstChannel, OPEN, type Outgoing, type Protection, ThirdChannel } from './channel.ts';
import { Conversation } from './conversation.ts';
import { type HostKey, type HostKeyKind, sealedKey } from './sessionKeys.ts';

export type FileMode = 'plain' | 'maced' | 'enciphered';
const MODE: Record<FileMode, number> = { plain: 0, maced: 1, enciphered: 3 };

/** Who may read, write, do both, and change the settings: a key's number, `free` or `never`. */
export interface Rights {
  read: Who;
  write: Who;
  both: Who;
  change: Who;
}
export type Who = number | 'free' | 'never';

const nibble = (who: Who): number => (who === 'free' ? 14 : who === 'never' ? 15 : who);
export const rightsBytes = ({ read, write, both, change }: Rights): number[] => [
  nibble(both) * 16 + nibble(change),
  nibble(read) * 16 + nibble(write),
];

const KIND_BITS: Record<HostKeyKind, number> = { tdes2: 0, tdes3: 0x40, aes128: 0x80 };
/** In the kind of an application: files of it may have identifiers of ISO/IEC 7816-4. */
const ISO_FILES_BIT = 0x20;
const NOTHING = new Uint8Array(0);

export class FilesHost extends Conversation {
  /** Of the card's own level, or of an application by its identifier. What was authenticated is over. */
  async select(application = 0): Promise<void> {
    this.channel = OPEN;
    await this.exchange('SelectApplication', 0x5a, littleEndian(application, 3));
  }

  version = (): Promise<Uint8Array> => this.manage('GetVersion', 0x60);
  async freeMemory(): Promise<number> {
    const [low, middle, high] = await this.manage('FreeMem', 0x6e);
    return low! + 256 * middle! + 65536 * high!;
  }
  uid = (): Promise<Uint8Array> =>
    this.send({
      name: 'GetCardUID',
      code: 0x51,
      header: NOTHING,
      data: NOTHING,
      protection: this.channel instanceof ThirdChannel ? 'maced' : 'plain',
      answer: 'enciphered',
      expects: 7,
    });
  async applications(): Promise<number[]> {
    const ids = await this.manage('GetApplicationIDs', 0x6a);
    return Array.from(
      { length: ids.length / 3 },
      (_, i) => ids[3 * i]! + 256 * ids[3 * i + 1]! + 65536 * ids[3 * i + 2]!,
    );
  }
  /**
   * `iso`: its own identifier of ISO/IEC 7816-4, perhaps with a name of 1 to 16 bytes, and whether its files have
   * identifiers, which is all that the bit in the key byte says [T].
   */
  async createApplication(
    id: number,
    settings: number,
    kind: HostKeyKind,
    keys: number,
    iso?: { id?: number; name?: Uint8Array; files?: boolean },
  ): Promise<void> {
    const named = iso?.id === undefined ? [] : [...littleEndian(iso.id, 2), ...(iso.name ?? [])];
    const kinds = KIND_BITS[kind] + keys + (iso?.files ? ISO_FILES_BIT : 0);
    await this.manage('CreateApplication', 0xca, [...littleEndian(id, 3), settings, kinds, ...named]);
  }
  /** 1 formatting is given up, 2 the card draws its identifier anew: neither can be taken back. */
  async setConfiguration(flags: number): Promise<void> {
    await this.send({
      name: 'SetConfiguration',
      code: 0x5c,
      header: Uint8Array.of(0),
      data: Uint8Array.of(flags),
      protection: 'enciphered',
      answer: this.channel instanceof ThirdChannel ? 'maced' : 'plain',
    });
  }
  async deleteApplication(id: number): Promise<void> {
    await this.manage('DeleteApplication', 0xda, littleEndian(id, 3));
  }
  async format(): Promise<void> {
    await this.manage('FormatPICC', 0xfc);
  }
  async keyVersion(number: number): Promise<number> {
    return (await this.manage('GetKeyVersion', 0x64, [number]))[0]!;
  }
  keySettings = (): Promise<Uint8Array> => this.manage('GetKeySettings', 0x45);
  fileSettings = (file: number): Promise<Uint8Array> => this.manage('GetFileSettings', 0xf5, [file]);
  files = async (): Promise<number[]> => [...(await this.manage('GetFileIDs', 0x6f))];
  async deleteFile(file: number): Promise<void> {
    await this.manage('DeleteFile', 0xdf, [file]);
  }
  async commit(): Promise<void> {
    await this.manage('CommitTransaction', 0xc7);
  }
  async abort(): Promise<void> {
    await this.manage('AbortTransaction', 0xa7);
  }
  async clearRecords(file: number): Promise<void> {
    await this.manage('ClearRecordFile', 0xeb, [file]);
  }

  async changeKeySettings(settings: number): Promise<void> {
    await this.send({
      name: 'ChangeKeySettings',
      code: 0x54,
      header: NOTHING,
      data: Uint8Array.of(settings),
      protection: 'enciphered',
      answer: this.channel instanceof ThirdChannel ? 'maced' : 'plain',
    });
  }

  /** `free` where everybody may change them: then nothing of it is enciphered. */
  async changeFileSettings(file: number, mode: FileMode, rights: Rights, free: boolean): Promise<void> {
    await this.send({
      name: 'ChangeFileSettings',
      code: 0x5f,
      header: Uint8Array.of(file),
      data: Uint8Array.of(MODE[mode], ...rightsBytes(rights)),
      protection: free ? 'plain' : 'enciphered',
      answer: this.channel instanceof ThirdChannel && !free ? 'maced' : 'plain',
    });
  }

  /** Changes a key of the selected level; `old` is needed for another key than the one that is authenticated. */
  async changeKey(number: number, next: HostKey, old?: HostKey, isCard = false): Promise<void> {
    const { channel } = this;
    const name = `ChangeKey ${number}`;
    const told = isCard ? number + KIND_BITS[next.kind] : number;
    const head = Uint8Array.of(told);
    const isOwn = channel.key === number;
    if (!isOwn && !old)
      fail('old-key', `${name}: another key than the authenticated one is changed from its old value.`);
    const value = isOwn ? next.bytes : xored(next.bytes, old!.bytes);
    const body = next.kind === 'aes128' ? joined(value, [next.version ?? 0]) : value;
    const command: Outgoing = { name, code: 0xc4, header: head, data: NOTHING, protection: 'plain', answer: 'plain' };
    const sealed = joined(head, sealedKey(channel, command, body, isOwn ? undefined : next.bytes));
    try {
      const answer = await this.exchange(name, 0xc4, sealed);
      if (isOwn) this.channel = OPEN;
      else channel.open({ ...command, answer: channel instanceof ThirdChannel ? 'maced' : 'plain' }, answer);
    } catch (error) {
      this.channel = OPEN;
      throw error;
    }
  }

  private create(
    name: string,
    code: number,
    file: number,
    mode: FileMode,
    rights: Rights,
    rest: Uint8Array,
    isoId?: number,
  ): Promise<Uint8Array> {
    const named = isoId === undefined ? [] : littleEndian(isoId, 2);
    return this.manage(name, code, [file, ...named, MODE[mode], ...rightsBytes(rights), ...rest]);
  }
  async createData(
    kind: 'standard' | 'backup',
    file: number,
    mode: FileMode,
    rights: Rights,
    size: number,
    isoId?: number,
  ): Promise<void> {
    const code = kind === 'standard' ? 0xcd : 0xcb;
    await this.create('CreateDataFile', code, file, mode, rights, littleEndian(size, 3), isoId);
  }
  async createValue(
    file: number,
    mode: FileMode,
    rights: Rights,
    { lower, upper, value, limitedCredit }: { lower: number; upper: number; value: number; limitedCredit: boolean },
  ): Promise<void> {
    const numbers = [lower, upper, value].map((n) => littleEndian(n < 0 ? n + 2 ** 32 : n, 4));
    await this.create('CreateValueFile', 0xcc, file, mode, rights, joined(...numbers, [limitedCredit ? 1 : 0]));
  }
  async createRecords(
    kind: 'linear' | 'cyclic',
    file: number,
    mode: FileMode,
    rights: Rights,
    size: number,
    most: number,
    isoId?: number,
  ): Promise<void> {
    const code = kind === 'linear' ? 0xc1 : 0xc0;
    const sizes = joined(littleEndian(size, 3), littleEndian(most, 3));
    await this.create('CreateRecordFile', code, file, mode, rights, sizes, isoId);
  }

  /** `mode` is the file's where the authenticated key itself may, plain where everybody may. */
  private transfer(
    name: string,
    code: number,
    header: Uint8Array,
    data: Uint8Array,
    mode: FileMode,
    expects?: number,
  ): Promise<Uint8Array> {
    const isNewer = this.channel instanceof ThirdChannel;
    const bare: Protection = isNewer && mode !== 'plain' ? 'maced' : 'plain';
    const reads = data.length === 0;
    return this.send({
      name,
      code,
      header,
      data,
      protection: reads ? bare : mode,
      answer: reads ? mode : bare,
      expects,
    });
  }
  private place = (file: number, offset: number, length: number): Uint8Array =>
    joined([file], littleEndian(offset, 3), littleEndian(length, 3));

  /** `length` bytes from `offset`; to the end where it is 0. */
  async read(file: number, offset: number, length: number, mode: FileMode): Promise<Uint8Array> {
    const expects = length || (await this.toldLength(file, mode, ({ size }) => size - offset));
    return this.transfer('ReadData', 0xbd, this.place(file, offset, length), NOTHING, mode, expects);
  }
  async write(file: number, offset: number, data: Uint8Array, mode: FileMode): Promise<void> {
    await this.transfer('WriteData', 0x3d, this.place(file, offset, data.length), data, mode);
  }
  /** The records from `first` (0 the newest) on, all of them where `count` is 0, the oldest of them first; `size` bytes each. */
  async readRecords(file: number, first: number, count: number, size: number, mode: FileMode): Promise<Uint8Array> {
    const expects = count * size || (await this.toldLength(file, mode, ({ records }) => (records - first) * size));
    return this.transfer('ReadRecords', 0xbb, this.place(file, first, count), NOTHING, mode, expects);
  }
  /**
   * How long an answer of all that is left will be, asked of the card where the answer itself cannot tell: after 0A its
   * CRC-16 and zeros for padding often hold at two lengths (one file in 256 ends in a byte that passes for half its checksum).
   */
  private async toldLength(
    file: number,
    mode: FileMode,
    of: (file: { size: number; records: number }) => number,
  ): Promise<number | undefined> {
    if (!(this.channel instanceof FirstChannel) || mode !== 'enciphered') return undefined;
    const told = await this.fileSettings(file);
    const number = (at: number) => told[at]! + 256 * told[at + 1]! + 65536 * told[at + 2]!;
    return of({ size: number(4), records: told.length > 10 ? number(10) : 0 });
  }
  async writeRecord(file: number, offset: number, data: Uint8Array, mode: FileMode): Promise<void> {
    await this.transfer('WriteRecord', 0x3b, this.place(file, offset, data.length), data, mode);
  }
  async value(file: number, mode: FileMode): Promise<number> {
    const bytes = await this.transfer('GetValue', 0x6c, Uint8Array.of(file), NOTHING, mode, 4);
    return new DataView(bytes.slice().buffer).getInt32(0, true);
  }
  async changeValue(
    how: 'credit' | 'limited credit' | 'debit',
    file: number,
    amount: number,
    mode: FileMode,
  ): Promise<void> {
    const code = { credit: 0x0c, 'limited credit': 0x1c, debit: 0xdc }[how];
    await this.transfer(how, code, Uint8Array.of(file), littleEndian(amount, 4), mode);
  }
}
