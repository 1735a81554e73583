/** Renderings: one read as other devices would show it. */
import type { Bits } from '../bits/index.ts';

export interface Rendering {
  id: string;
  /** What is shown, in words. */
  name: string;
  text?: string;
  /** Why there is no text. */
  unavailable?: string;
}

/**
 * One read in every common way of showing it: hex both ways, decimal, without its first and last bit, reversed by bits
 * or bytes, inverted, and the prints of the low 24 and 32 bits. Common practice, no source.
 */
export function renderings(bits: Bits): Rendering[] {
  const whole = bits.length % 8 === 0;
  const inner = bits.length > 2 ? bits.slice(2, bits.length - 1) : undefined;
  const needsBytes = { unavailable: `needs whole bytes; ${bits.length} bits are not` };
  return [
    { id: 'hex-right', name: 'hex, right-justified', text: bits.toHex('right') },
    { id: 'hex-left', name: 'hex, left-justified', text: bits.toHex('left') },
    { id: 'decimal', name: `decimal, all ${bits.length} bits`, text: bits.toDecimal() },
    inner
      ? { id: 'decimal-inner', name: `decimal, bits 2-${bits.length - 1}`, text: inner.toDecimal() }
      : { id: 'decimal-inner', name: 'decimal without first and last bit', unavailable: 'nothing between them' },
    {
      id: 'bytes-reversed',
      name: 'bytes reversed, hex',
      ...(whole ? { text: bits.reverseBytes().toHex() } : needsBytes),
    },
    {
      id: 'bytes-reversed-decimal',
      name: 'bytes reversed, decimal',
      ...(whole ? { text: bits.reverseBytes().toDecimal() } : needsBytes),
    },
    { id: 'bits-reversed', name: 'bits reversed, hex', text: bits.reverseBits().toHex() },
    { id: 'inverted', name: 'inverted, hex', text: bits.invert().toHex() },
    ...lowPrints(bits, ''),
    ...(inner ? lowPrints(inner, ', without the parity bits') : []),
  ];
}

/** The prints that hold only the low bits: `fff,nnnnn` of 24 and ten digits of 32. */
function lowPrints(bits: Bits, of: string): Rendering[] {
  const suffix = of === '' ? '' : '-inner';
  const low = (width: number) => bits.slice(bits.length - width + 1, bits.length);
  const few = (width: number) => ({ unavailable: `needs ${width} bits` });
  const pair = () => {
    const value = low(24).toBigInt();
    return `${String(value >> 16n).padStart(3, '0')},${String(value & 0xffffn).padStart(5, '0')}`;
  };
  return [
    { id: `low24${suffix}`, name: `fff,nnnnn, low 24${of}`, ...(bits.length >= 24 ? { text: pair() } : few(24)) },
    {
      id: `low32${suffix}`,
      name: `ten digits, low 32${of}`,
      ...(bits.length >= 32 ? { text: low(32).toDecimal().padStart(10, '0') } : few(32)),
    },
  ];
}
