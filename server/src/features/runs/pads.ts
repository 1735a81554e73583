/** The pads of a site by the names that people know them by: a reader at a door that serves as one has the reader's. */
import { eq } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { readerTable } from '../doors/index.ts';

export async function padsNamed(app: App, site: string): Promise<{ id: string; name: string; connected: boolean }[]> {
  const readers = await app.db.select().from(readerTable).where(eq(readerTable.siteId, site));
  const names = new Map(readers.map(({ device, name }) => [device, name]));
  return (await app.devices.pads(site)).map((pad) => {
    const reader = names.get(pad.id.split('/')[1] ?? '');
    return reader === undefined ? pad : { ...pad, name: `Whatever is held to ${reader}` };
  });
}
