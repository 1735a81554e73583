/** A block cipher under one key. */
export interface BlockCipher {
  /** Bytes of a block: 8 or 16. */
  readonly size: number;
  /** Enciphers the block that begins at `at`, in place. */
  encrypt(bytes: Uint8Array, at?: number): void;
  /** Deciphers the block that begins at `at`, in place. */
  decrypt(bytes: Uint8Array, at?: number): void;
}
