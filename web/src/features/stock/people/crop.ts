/** Cutting a photograph: which part of a picture fills a frame, by how near and where somebody looks. */

export interface Size {
  width: number;
  height: number;
}
/** `near` is 1 where as much as possible is seen; `x` and `y`, 0 … 1, where of what is left over. */
export interface Look {
  near: number;
  x: number;
  y: number;
}
export interface Part extends Size {
  left: number;
  top: number;
}

/** As it is kept, in pixels: for a badge and for a screen. */
export const FRAME: Size = { width: 300, height: 400 };

/** The part of a picture that fills a frame of some proportions; always within the picture. */
export function partOf(picture: Size, frame: Size, { near, x, y }: Look): Part {
  const scale = Math.min(picture.width / frame.width, picture.height / frame.height) / Math.max(1, near);
  const [width, height] = [frame.width * scale, frame.height * scale];
  const within = (at: number) => Math.min(1, Math.max(0, at));
  return { width, height, left: (picture.width - width) * within(x), top: (picture.height - height) * within(y) };
}
