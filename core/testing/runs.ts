/**
 * How many random runs a test makes, and from which seed. By default a tenth of them, always the same ones, so that a
 * change fails for its own faults alone; `bin/test --all` makes all of them from the seed of the day, which it prints.
 */
import fc from 'fast-check';

/** Whether all runs are made. */
export const isWhole = process.env.RAWBITS_TESTS === 'all';

const given = process.env.RAWBITS_SEED === undefined ? undefined : Number(process.env.RAWBITS_SEED);

/** What random runs begin with: `RAWBITS_SEED`, or the test's own, chosen so that its few runs meet every kind of case. */
export const seedOr = (own: number): number => given ?? own;

/** The runs to make of `whole`: all, or a tenth, at least one. */
export const runs = (whole: number): number => (isWhole ? whole : Math.ceil(whole / 10));

/** As many seeds as there are runs to make of `whole`, from the test's own on; no two days share any. */
export const seeds = (whole: number, own = 1): number[] =>
  Array.from({ length: runs(whole) }, (_, i) => (seedOr(own) * (given === undefined ? 1 : 1000) + i) >>> 0);

/** How often something has to have been met: `whole` times in a whole run, once otherwise. */
export const met = (whole: number): number => (isWhole ? whole : 1);

/**
 * Whether the place `i` (from 0) of something gone through place by place is tried: each of them in a whole run, otherwise
 * each `nth`, beginning with `first`. Tests that go through the same places give different firsts.
 */
export const isTried = (i: number, nth: number, first = 0): boolean => isWhole || i % nth === first % nth;

/** Every property begins with it, unless it names one of its own. */
fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: seedOr(1) });
