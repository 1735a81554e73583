/** Whether two who sign in are two people: what takes two custodians cannot be done by one with two accounts of one name. */
const plain = (name: string): string => name.normalize('NFKC').trim().replace(/\s+/g, ' ').toLowerCase();

export const isSamePerson = (a: { id: string; name: string }, b: { id: string; name: string }): boolean =>
  a.id === b.id || plain(a.name) === plain(b.name);
