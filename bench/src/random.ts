/** A seeded source of numbers from 0 to below 1, so that every run measures the same reads. */
export { seeded as randomSource } from '../../core/src/identify/seeded.ts';
