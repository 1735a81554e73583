/** Likely is what is at least this likely. */
export const LIKELY = 0.9;
