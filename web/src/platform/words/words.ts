/** `1 card`, `3 cards`. */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en')} ${count === 1 ? one : many}`;
