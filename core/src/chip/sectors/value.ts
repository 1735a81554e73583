/** Value blocks: the value three times, once inverted, and an address four times, twice inverted (CHIPS). */

/** A signed number of four bytes and an address of one, as a block. */
export function valueBlock(value: number, address: number): Uint8Array {
  const block = new Uint8Array(16);
  const view = new DataView(block.buffer);
  view.setInt32(0, value, true);
  view.setInt32(4, ~value, true);
  view.setInt32(8, value, true);
  block.set([address, address ^ 255, address, address ^ 255], 12);
  return block;
}

/** What a block holds as a value; undefined where it is none. */
export function valueIn(block: Uint8Array): { value: number; address: number } | undefined {
  const view = new DataView(block.buffer, block.byteOffset, 16);
  const value = view.getInt32(0, true);
  const address = block[12]!;
  return valueBlock(value, address).every((byte, i) => byte === block[i]) ? { value, address } : undefined;
}
