/** What stands in the files of a card, as far as the keys at hand read it. */
import { CardRefusal, type FilesHost } from '../../host/index.ts';
import { fieldsIn, type ReadField } from '../fields/index.ts';
import type { Plan } from '../schema/index.ts';
import { Level } from './level.ts';
import { type Ring, slotKeys } from './ring.ts';

export interface ReadableField extends Omit<ReadField, 'name'> {
  application: string;
  file: number;
  field: string;
}

/** The fields of every data file that is there and can be read. Throws where the card is gone. */
export async function readableFields(host: FilesHost, plan: Plan, ring: Ring): Promise<ReadableField[]> {
  const found: ReadableField[] = [];
  for (const { id, keyKind, keys, files } of plan.applications) {
    if (!(await allows(() => host.select(Number.parseInt(id, 16))))) continue;
    const slots = keys.map((name) => slotKeys(ring, id, keyKind, [name]));
    const level = new Level(host, id, slots, () => {});
    for (const file of files) {
      if (!('fields' in file) || file.fields.length === 0) continue;
      const { read, both } = file.rights;
      const slot = [read, both].find((who) => typeof who === 'number');
      const isOpen = [read, both].includes('free');
      if (typeof slot === 'number' ? !(await level.enter(slot)) && !isOpen : !isOpen) continue;
      const mode = level.session === slot && slot !== undefined ? file.mode : 'plain';
      await allows(async () => {
        const bytes = await host.read(file.number, 0, file.size, mode);
        for (const { name, value, holds } of fieldsIn(file.fields, bytes))
          found.push({ application: id, file: file.number, field: name, value, holds });
      }, level);
    }
  }
  return found;
}

async function allows(work: () => Promise<void>, level?: Level): Promise<boolean> {
  try {
    await work();
    return true;
  } catch (error) {
    if (!(error instanceof CardRefusal)) throw error;
    level?.ended();
    return false;
  }
}
