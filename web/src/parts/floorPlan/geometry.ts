/**
 * The floor plan of a file-system card: the memory is the ground, an application a house on it, a file a room whose area is
 * its bytes; a hall beside the rooms is what the keys take. Houses stand to one scale; what is free is drawn as a strip to the
 * scale of the whole chip.
 */
import {
  bytesOfPlan,
  bytesOfPlanApplication,
  bytesOfPlanFile,
  type Plan,
  type PlanFile,
  type Who,
} from '@rawbits/core/plan';
import { type Rect, squarified } from './squarify.ts';

export interface Door {
  right: 'read' | 'write' | 'both' | 'change';
  who: Who;
}
export interface Room extends Rect {
  application: string;
  file: PlanFile;
  bytes: number;
  doors: Door[];
}
export interface House extends Rect {
  id: string;
  name: string | undefined;
  keys: readonly (string | null)[];
  bytes: number;
  /** Where its keys are kept. */
  hall: Rect;
  rooms: Room[];
}
export interface Ground {
  houses: House[];
  /** Bytes in all, taken and free; free is below zero where the plan is too large. */
  capacity: number;
  used: number;
  free: number;
}

const HEAD = 22;
const WALL = 3;

/** Rights from the one that is asked for most. */
export const RIGHTS = ['read', 'write', 'both', 'change'] as const;

export function groundOf(plan: Plan, width: number, height: number): Ground {
  const { used, free } = bytesOfPlan(plan);
  // The largest first: so the houses come nearest to squares.
  const bySize = plan.applications.toSorted((a, b) => bytesOfPlanApplication(b) - bytesOfPlanApplication(a));
  const places = squarified(bySize.map(bytesOfPlanApplication), { x: 0, y: 0, width, height });
  return {
    capacity: plan.capacity,
    used,
    free,
    houses: bySize.map((application, i) => {
      const place = shrunk(places[i]!, WALL);
      const bytes = bytesOfPlanApplication(application);
      const inside = {
        x: place.x,
        y: place.y + HEAD,
        width: place.width,
        height: Math.max(0, place.height - HEAD),
      };
      const files = application.files.map(bytesOfPlanFile);
      const keys = bytes - files.reduce((sum, one) => sum + one, 0);
      const [hall, ...rooms] = squarified([keys, ...files], inside);
      return {
        ...place,
        id: application.id,
        name: application.name,
        keys: application.keys,
        bytes,
        hall: hall!,
        rooms: application.files.map((file, j) => ({
          ...rooms[j]!,
          application: application.id,
          file,
          bytes: files[j]!,
          doors: RIGHTS.map((right) => ({ right, who: file.rights[right] })),
        })),
      };
    }),
  };
}

const shrunk = ({ x, y, width, height }: Rect, by: number): Rect => ({
  x: x + by,
  y: y + by,
  width: Math.max(0, width - 2 * by),
  height: Math.max(0, height - 2 * by),
});

/** A door in words: whose key opens it. */
export const doorWords = (who: Who): string => (who === 'free' ? 'open' : who === 'never' ? 'walled up' : `key ${who}`);

/** As short as can be: `2`, `open` or `–`. */
export const doorMark = (who: Who): string => (who === 'free' ? 'open' : who === 'never' ? '–' : String(who));

/** A room as a sentence, for those who do not see the drawing. */
export const roomWords = ({ application, file, doors, bytes }: Room): string =>
  `File ${file.number}${file.name ? `, ${file.name},` : ''} of ${application}: ${file.kind}, ${bytes} bytes, ${file.mode}. ${doors
    .map(({ right, who }) => `${right === 'both' ? 'read and write' : right}: ${doorWords(who)}`)
    .join(', ')}.`;

/** What can be done with a room by somebody's keys, and by how many commands; undefined where nothing can. */
export interface Lit {
  reads?: number;
  alters?: number;
  destroys?: number;
}

/** The rooms that some abilities open, by application and file. */
export function litBy(abilities: readonly { can: string; by: readonly unknown[] }[]): Map<string, Lit> {
  const lit = new Map<string, Lit>();
  for (const { can, by } of abilities) {
    const [, what, file, application] = /^(read|alter|destroy) file (\d+) of ([0-9A-F]{6})$/.exec(can) ?? [];
    if (!what) continue;
    const key = `${application} ${file}`;
    const use = what === 'read' ? 'reads' : what === 'alter' ? 'alters' : 'destroys';
    lit.set(key, { ...lit.get(key), [use]: by.length });
  }
  return lit;
}
