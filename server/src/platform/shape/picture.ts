/** Pictures that are kept: of the type that they are said to be, and small enough for a browser to show. */
import { imageSize } from 'image-size';

/** How files begin: JPEG (ISO/IEC 10918-1 §B.1.1.3, SOI and a marker), PNG (RFC 2083 §3.1). */
const BEGINNINGS = { 'image/jpeg': 'ffd8ff', 'image/png': '89504e470d0a1a0a' } as const;
export type PictureType = keyof typeof BEGINNINGS;

/** A small file can hold a picture that no browser has room for. */
export const MOST_PIXELS = { mark: 1000, photograph: 2000 } as const;

/** What is wrong with a picture in base64; undefined where nothing is. */
export function pictureProblem(data: string, type: PictureType, what: keyof typeof MOST_PIXELS): string | undefined {
  const bytes = Buffer.from(data, 'base64');
  if (!bytes.subarray(0, 16).toString('hex').startsWith(BEGINNINGS[type]))
    return `This is no picture of the type ${type}.`;
  let size: { width: number; height: number };
  try {
    size = imageSize(bytes);
  } catch {
    return 'This picture is damaged: it does not say how large it is.';
  }
  const { width, height } = size;
  const most = MOST_PIXELS[what];
  if (Math.min(width, height) >= 1 && Math.max(width, height) <= most) return undefined;
  return `A ${what} is 1 to ${most} pixels wide and high, and this one ${width} × ${height}.`;
}
