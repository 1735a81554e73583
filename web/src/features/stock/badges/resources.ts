/** What badges are drawn with, loaded when the first of them is: letterforms, the barcode library, and pictures with their sizes. */
import monoLatin from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff?url';
import monoExtended from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-ext-400-normal.woff?url';
import plainLatin from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff?url';
import boldLatin from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff?url';
import plainExtended from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-ext-400-normal.woff?url';
import boldExtended from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-ext-700-normal.woff?url';
import { imageSize } from 'image-size';
import type { Lettering, Picture } from './badge.ts';
import type { Encoder } from './codes.ts';
import type { Face } from './lettering.ts';

let loading: Promise<Lettering> | undefined;

/** Once; where it could not be loaded, the next who asks tries again. */
export function lettering(): Promise<Lettering> {
  loading ??= load().catch((error: unknown) => {
    loading = undefined;
    throw error;
  });
  return loading;
}

async function load(): Promise<Lettering> {
  const [{ parse }, bars, ...files] = await Promise.all([
    import('opentype.js'),
    import('bwip-js/generic'),
    ...[plainLatin, plainExtended, boldLatin, boldExtended, monoLatin, monoExtended].map(async (url) => {
      const answer = await fetch(url);
      if (!answer.ok) throw new Error(`${url}: ${answer.status}`);
      return answer.arrayBuffer();
    }),
  ]);
  const fonts = files.map((file) => parse(file));
  const face = (at: number): Face => ({ fonts: fonts.slice(at, at + 2) });
  return { plain: face(0), bold: face(2), mono: face(4), encode: bars.default.raw as Encoder };
}

/** A picture with its size; undefined where it is none. */
export function pictureOf(type: Picture['type'], data: string): Picture | undefined {
  try {
    const { width, height } = imageSize(Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0)));
    return width > 0 && height > 0 ? { type, data, width, height } : undefined;
  } catch {
    return undefined;
  }
}
