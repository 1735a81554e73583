/** A row of a sheet of people: whom it means of those on file, and what it would make of them. */
import { type peopleSheetSchema, SOMEBODY_NEW } from '@rawbits/api';
import type { z } from 'zod';
import { broughtTo } from './rules.ts';

export type Row = z.output<typeof peopleSheetSchema>['rows'][number];
type Group = { id: string; name: string };

const SEPARATOR = '|';
/** So many groups are named where one is not found. */
const HINTED = 20;

export const FIELDS = ['name', 'department', 'organisation', 'kind', 'contact', 'notes'] as const;
export type Kept = Record<(typeof FIELDS)[number], string>;

export interface OnFile extends Kept {
  id: string;
  groups: string[];
}

/** A row that can be entered: who it is about as they are, and as they would be. */
export interface Good {
  row: Row;
  was: OnFile | null;
  is: Kept;
  groups: string[];
}

export const keyOf = (name: string): string => name.trim().toLocaleLowerCase('en');

export type Refusal = { message: string; hint?: string; field: string };
export const isRefusal = (value: object): value is Refusal => 'message' in value;

/** Whom a row means: somebody on file, or null for somebody new. */
export function whom(
  row: Row,
  byId: Map<string, OnFile>,
  byName: Map<string, OnFile[]>,
): { was: OnFile | null } | Refusal {
  const [id, name] = [row.id.trim(), row.name.trim()];
  if (id !== '' && id.toLowerCase() !== SOMEBODY_NEW) {
    const was = byId.get(id);
    return was
      ? { was }
      : {
          message: `Nobody at this site is ${id}.`,
          hint: 'Leave the identifier out, or take it from a sheet of this site.',
          field: 'id',
        };
  }
  if (name === '') return { message: 'It has no name.', hint: 'Give the name, or take the row out.', field: 'name' };
  if (id !== '') return { was: null };
  const namesakes = byName.get(keyOf(name)) ?? [];
  const { department } = row;
  const same = department === '' ? namesakes : namesakes.filter((one) => keyOf(one.department) === keyOf(department));
  if (same.length > 1)
    return {
      message: `Several cardholders are called ${name}.`,
      hint: 'Give their department, or the identifier that a sheet of this site has.',
      field: 'name',
    };
  if (same[0]) return { was: same[0] };
  const [other] = namesakes;
  if (!other) return { was: null };
  // Somebody who moved, or a namesake: only whoever wrote the sheet knows.
  if (namesakes.length === 1 && other.department === '') return { was: other };
  return {
    message: `${other.name} on file is ${other.department ? `of ${other.department}` : 'of no department'}, and not of ${department}.`,
    hint: `Give their identifier if they moved, or ${SOMEBODY_NEW} in its place if this is somebody else.`,
    field: 'department',
  };
}

/** The groups of a site by their names as sheets write them, and how many pieces between `|` the longest name has. */
export interface GroupNames {
  byName: ReadonlyMap<string, string>;
  names: readonly string[];
  pieces: number;
}

const piecesOf = (text: string): string[] => text.split(SEPARATOR).map(keyOf);
const joined = (pieces: readonly string[]): string => pieces.join(SEPARATOR);

export function groupNames(groups: readonly Group[]): GroupNames {
  return {
    byName: new Map(groups.map(({ id, name }) => [joined(piecesOf(name)), id])),
    names: groups.map(({ name }) => name),
    pieces: Math.max(1, ...groups.map(({ name }) => piecesOf(name).length)),
  };
}

/** Groups by their names, with `|` between them; a name that has one in itself is taken whole. Costs the pieces of the cell. */
function groupsNamed(cell: string, { byName, names, pieces: most }: GroupNames): string[] | Refusal {
  const pieces = piecesOf(cell);
  const found = new Set<string>();
  for (let at = 0; at < pieces.length; ) {
    let length = Math.min(most, pieces.length - at);
    while (length > 0 && !byName.has(joined(pieces.slice(at, at + length)))) length--;
    if (length === 0)
      return {
        message: `No access group is called ${cell.split(SEPARATOR)[at]!.trim().slice(0, 120) || 'nothing'}.`,
        hint: names.length === 0 ? 'The site has none yet.' : `Groups are: ${names.slice(0, HINTED).join(', ')}.`,
        field: 'groups',
      };
    found.add(byName.get(joined(pieces.slice(at, at + length)))!);
    at += length;
  }
  return [...found].sort();
}

export function readRow(
  row: Row,
  who: { was: OnFile | null } | Refusal,
  groups: GroupNames,
  rules: Parameters<typeof broughtTo>[0],
): Good | Refusal {
  if (isRefusal(who)) return who;
  const { was } = who;
  const is = Object.fromEntries(FIELDS.map((field) => [field, row[field].trim() || (was?.[field] ?? '')])) as Kept;
  const isSaid = row.groups.trim() !== '';
  const named = isSaid ? groupsNamed(row.groups, groups) : [];
  if (!Array.isArray(named)) return named;
  const kept = was ? was.groups : broughtTo(rules, is).groups;
  return { row, was, is, groups: isSaid ? named : [...kept].sort() };
}
