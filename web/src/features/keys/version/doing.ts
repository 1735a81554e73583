/** What is being done with a version of a key. */
export type Doing = { what: 'uncover' | 'destroy' | 'cards'; version: number } | { what: 'new' } | undefined;
