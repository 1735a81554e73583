/** The package's own types cannot be found through its exports; this is the part of them that the benchmark uses. */
declare module 'binary-parser' {
  export class Parser {
    static start(): Parser;
    endianness(order: 'big' | 'little'): this;
    bit1(name: string): this;
    bit8(name: string): this;
    bit16(name: string): this;
    parse(buffer: Uint8Array): Record<string, number>;
  }
}
