/** Chip plans: what goes on a card, what is wrong with it, and what some keys can do to it. */
export * from './bring/index.ts';
export * from './change/index.ts';
export * from './door/index.ts';
export * from './fields/index.ts';
export * from './kinds/index.ts';
export * from './reach/index.ts';
export * from './schema/index.ts';
export * from './sectors/index.ts';
export * from './tags/index.ts';
