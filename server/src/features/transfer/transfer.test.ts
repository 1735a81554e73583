/** A whole site out of one installation and into another; what is not whole, or not what it was, is not taken. */
import { type AccessChange, accessApi, SITE_LINES, type SiteLine, siteLineSchema } from '@rawbits/api';
import { explain } from '@rawbits/core/translate';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BOAT_BITS, eventually, furnish, type House, loadAndWait, openHouse, Person } from '../../testing/harness.ts';
import { carriedOn } from './export.ts';
import { giveUpQuietImports } from './import.ts';

const MOVED = '26 | 1 even 2-13 | 2-8 facility | 9-24 number | 26 odd 14-25';

/** A site with something of every kind. */
async function fill({ administrator, site }: House): Promise<void> {
  const at = `/sites/${site}`;
  const holder = await administrator.do('POST', `${at}/cardholders`, { name: 'Åse Östberg', department: 'Dive team' });
  for (const number of ['7', '8'])
    await administrator.do('POST', `${at}/cards`, {
      formatId: '26-8-16',
      facility: '58',
      number,
      printed: `A-${number}`,
      ...(number === '7' && { holderId: holder.id, state: 'active', validTo: '2030-06-30T22:00:00.000Z' }),
    });
  const box = { name: 'Single', formatId: '26-8-16', facility: '58', first: '2000', last: '2000' };
  const { seen } = await administrator.do('POST', `${at}/box-review`, box);
  const { id: work } = await administrator.do('POST', `${at}/boxes`, { ...box, seen });
  await eventually(
    () => administrator.do('GET', `${at}/box-work/${work}`),
    ({ state }) => state === 'done',
  );
  const { doors } = await administrator.ask(accessApi.all, { site });
  const change = (change: AccessChange, kind = 'changes') =>
    administrator.do('POST', `${at}/access/${kind}`, { change });
  await change({ kind: 'holidays', holidays: [{ name: 'Midwinter', date: '2026-12-25', yearly: true }] });
  const nights = { name: 'Nights', periods: [{ days: [1, 5], from: '22:00', to: '06:00' }], onHolidays: [] };
  const { id: schedule } = await change({ kind: 'schedule', id: null, ...nights });
  const rights = ['always', schedule].map((own) => ({
    doors: [{ door: doors[0]!.id, ways: ['in' as const] }],
    schedule: own,
  }));
  const { id: group } = await change({ kind: 'group', id: null, name: 'Divers', rights });
  await change({ kind: 'members', add: [group], remove: [], holders: [holder.id] }, 'memberships');
  const photograph = { type: 'image/png', data: PIXEL };
  await administrator.do('PUT', `${at}/cardholders/${holder.id}/photograph`, { photograph });
  await administrator.do('PUT', `${at}/marks`, { organisation: 'Kelp Line', data: PIXEL });
  const filter = { group, state: 'active', formatId: '26-8-16' };
  await administrator.do('PUT', `${at}/card-filters`, { name: 'Divers at work', filter });
  await administrator.do('PUT', `${at}/cardholder-rules`, {
    ...{ pinDigits: 6, pinsDiffer: true, revision: 0 },
    brings: [{ organisation: '', kind: 'visitor', groups: [group], days: 14 }],
  });
  const during = { periods: nights.periods, onHolidays: [] };
  await administrator.ask(
    accessApi.assert,
    { site },
    { id: null, name: 'Nights are the divers’', but: [group], doors: [doors[0]!.id], way: 'out', during },
  );
  // A reader that is gone, of which a read is left.
  const gone = await administrator.do('POST', `${at}/readers`, {
    name: 'Old pad',
    kind: 'enrolment',
    device: 'old-pad',
  });
  await administrator.do('PUT', `${at}/rig`, {
    cards: [{ id: 'boat', shape: 'card', printed: '118406', look: 'no name', bits: BOAT_BITS }],
    readers: [
      { id: 'door', controller: 'shed' },
      { id: 'old-pad', controller: null },
    ],
    controllers: [{ id: 'shed' }],
  });
  await administrator.do('POST', `${at}/rig/presentations`, { card: 'boat', reader: gone.id });
  await eventually(
    () => administrator.do('GET', `${at}/reads`),
    (reads) => reads.length > 0,
  );
  const { digest } = await administrator.do('GET', `${at}/readers/${gone.id}/removal`);
  await administrator.do('POST', `${at}/readers/${gone.id}/removal`, { seen: digest });
  await administrator.do('POST', `${at}/facility-codes`, {
    formatId: '26-8-16',
    code: '58',
    name: 'First box',
    reserved: [{ from: '100', to: '199', note: 'divers' }],
  });
  await administrator.do('POST', `${at}/reads`, { bits: BOAT_BITS, notation: 'binary' });
  await administrator.do('POST', `${at}/cases`, {
    name: 'Boat shed',
    specimens: [{ bits: BOAT_BITS, printed: '118406' }],
  });
  await administrator.do('POST', `${at}/translations`, {
    name: 'Shed to lab',
    translation: explain([{ a: '04A23B1C', b: '1C3BA204' }]).explanations[0]!.translation,
  });
}

/** One white pixel. */
/** The same, but that its header says 20,000 × 20,000 (RFC 2083 §4.1.1). */
const HUGE = (() => {
  const bytes = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  bytes.writeUInt32BE(20_000, 16);
  bytes.writeUInt32BE(20_000, 20);
  return bytes.toString('base64');
})();
const PIXEL = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
const EXPORT = 'application/x-ndjson; charset=utf-8';

describe('a site', () => {
  let here: House;
  let there: House;
  let lines: string[];
  beforeAll(async () => {
    [here, there] = [await openHouse(), await openHouse()];
    const { controller, door } = await furnish(here);
    await fill(here);
    await loadAndWait(here.administrator, `/sites/${here.site}/controllers/${controller}`);
    await here.administrator.do('POST', `/sites/${here.site}/rig/presentations`, { card: 'boat', reader: door });
    await here.server.app.sealer.now(here.site);
    lines = await exported(here, here.site);
  });
  afterAll(async () => {
    await here.close();
    await there.close();
  });

  const exported = async (house: House, site: string, query = ''): Promise<string[]> => {
    const answer = await house.administrator.call<string>('GET', `/sites/${site}/export${query}`);
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, EXPORT]);
    return answer.body.trimEnd().split('\n');
  };
  const begin = (person = there.administrator) => person.do('POST', '/imports', {});
  const send = (id: string, piece: number, some: string[], person = there.administrator) =>
    person.call('POST', `/imports/${id}/pieces`, { piece, lines: some });
  const finish = (id: string) =>
    there.administrator.call('POST', `/imports/${id}/finish`, { name: 'Taken in', shortName: 'Taken' });
  /** Rows of sites by table, but for the chain's own and what has an import under way. */
  const rowsOf = async (house: House, site?: string): Promise<Record<string, number>> => {
    const pool = createPool(house.databaseUrl);
    const [tables] = await pool.query<RowDataPacket[]>(
      "SELECT table_name AS t FROM information_schema.columns WHERE column_name = 'site_id' AND table_schema = DATABASE()",
    );
    const counts: Record<string, number> = {};
    for (const { t } of tables) {
      const [rows] = await pool.query<RowDataPacket[]>(
        `SELECT count(*) AS n FROM ?? WHERE ${site === undefined ? 'site_id NOT IN (SELECT id FROM sites)' : 'site_id = ?'}`,
        [t, site],
      );
      if (Number(rows[0]!.n) > 0) counts[t] = Number(rows[0]!.n);
    }
    await pool.end();
    return counts;
  };

  it('goes out as lines of the published schema, in their order, closed by their count and digest', () => {
    const parsed = lines.map((line) => siteLineSchema.parse(JSON.parse(line)));
    const kinds = parsed.map(({ kind }) => SITE_LINES.indexOf(kind));
    expect(kinds).toEqual([...kinds].sort((a, b) => a - b));
    expect(new Set(parsed.map(({ kind }) => kind)).size).toBe(SITE_LINES.length);
    const end = parsed.at(-1) as Extract<SiteLine, { kind: 'end' }>;
    expect(end.lines).toBe(lines.length - 1);
    expect(end.digest).toBe(lines.slice(0, -1).reduce(carriedOn, ''));
  });

  it('comes in whole: exported again it is the same, but for what things are called inside', async () => {
    const { id } = await begin();
    for (let piece = 0; piece * 5 < lines.length; piece++) {
      const some = lines.slice(piece * 5, piece * 5 + 5);
      expect((await send(id, piece + 1, some)).status).toBe(200);
      // The answer was lost, and it is sent again.
      expect((await send(id, piece + 1, some)).body.pieces).toBe(piece + 1);
    }
    expect((await there.administrator.do('GET', '/sites')).map((s: { name: string }) => s.name)).toEqual([
      'Test Station',
    ]);
    const { status, body } = await finish(id);
    expect([status, body.counts.card, body.renamed]).toEqual([200, 3, []]);
    const again = await exported(there, body.site);
    /** Lines without what is called otherwise here, and without the record, which is another. */
    const bare = (all: string[]) => {
      // What lines call one another by, in the order in which it comes.
      const ids = all.flatMap((line) => (JSON.parse(line) as { id?: string }).id ?? []);
      const text = ids.reduce((whole, id, i) => whole.replaceAll(`"${id}"`, `"thing ${i}"`), all.join('\n'));
      return text
        .split('\n')
        .map((line) => JSON.parse(line) as Record<string, unknown>)
        .filter(({ kind }) => !['site', 'change', 'end'].includes(kind as string))
        .map(({ id: _, holder, box, reader, controller, read, card, versions, ...line }) =>
          JSON.stringify({ ...line, named: [holder, box, reader, controller, read, card].map((name) => name != null) }),
        )
        .sort();
    };
    expect(bare(again)).toEqual(bare(lines));
    const [controller] = await there.administrator.do('GET', `/sites/${body.site}/controllers`);
    expect(controller).toMatchObject({
      name: 'Shed',
      standing: 'never loaded',
      wantedCards: 1,
      wantedFormats: ['26-8-16'],
    });
    expect(controller.waitingCount).toBe(3);
    const { message } = await there.administrator.do('GET', `/sites/${body.site}/trail/verification`);
    expect(message).toMatch(/^All /);
    const { rows } = await there.administrator.do('GET', `/sites/${body.site}/happened?show=changes`);
    expect(rows.at(-1).change.action).toBe('site imported');
    expect(await rowsOf(there)).toEqual({});
  });

  it('a format that is another one here is called otherwise, and its cards with it', async () => {
    await there.administrator.do('POST', '/formats/26-8-16/versions', {
      name: 'Moved',
      layout: MOVED,
      basedOn: 1,
      reason: 'moved',
    });
    const changed = lines.slice(0, -1).map((line) => {
      const parsed = JSON.parse(line);
      if (parsed.kind !== 'format') return line;
      for (const version of parsed.versions)
        version.format.spans = version.format.spans.map((span: { role: string; at: string }) =>
          span.role === 'facility' ? { ...span, at: '2-7' } : span,
        );
      return JSON.stringify(parsed);
    });
    const end = JSON.stringify({ kind: 'end', lines: changed.length, digest: changed.reduce(carriedOn, '') });
    const { id } = await begin();
    expect((await send(id, 1, [...changed, end])).status).toBe(200);
    const { body } = await finish(id);
    expect(body.renamed).toEqual([{ from: '26-8-16', to: '26-8-16-2' }]);
    const { cards } = await there.administrator.do('GET', `/sites/${body.site}/cards`);
    expect(new Set(cards.map((c: { formatId: string }) => c.formatId))).toEqual(new Set(['26-8-16-2']));
    const formats = await there.administrator.do('GET', `/sites/${body.site}/formats`);
    expect(formats.find((f: { format: { id: string } }) => f.format.id === '26-8-16-2')).toMatchObject({
      adopted: true,
    });
  });

  const index = (kind: string) => lines.findIndex((line) => line.startsWith(`{"kind":"${kind}"`));
  const without = (kind: string) => lines.filter((line) => !line.startsWith(`{"kind":"${kind}"`));
  it.each<[string, () => string[], RegExp]>([
    ['cut off', () => lines.slice(0, -3), /end of the file has not come/],
    ['a line left out', () => lines.filter((_, i) => i !== index('read')), /not as it was exported/],
    ['a line changed', () => lines.map((line) => line.replace('A-7', 'A-9')), /not as it was exported/],
    ['not its beginning', () => lines.slice(1), /Line 1: a site’s file begins with the site/],
    [
      'out of order',
      () => [lines[0]!, lines[index('card')]!, ...lines.slice(1)],
      /Line 3: a line of the kind "format" belongs further up/,
    ],
    ['a holder who is nowhere', () => without('cardholder'), /names the cardholder/],
    ['a controller that is nowhere', () => without('controller'), /names the controller/],
    ['no JSON', () => ['{', ...lines], /Line 1: this is no JSON/],
    ['more after its end', () => [...lines, lines.at(-1)!], /has ended before/],
    [
      'a number that is none',
      () => lines.map((line) => line.replace('"number":"7"', '"number":"seven"')),
      /Line \d+: Write digits only/,
    ],
    ['a card twice', () => lines.flatMap((line, i) => (i === index('card') ? [line, line] : [line])), /twice/],
    [
      'half a character',
      () => lines.map((line) => line.replace('"Dive team"', '"\\ud800"')),
      /Line \d+: line.department holds half/,
    ],
    ['brackets in brackets', () => ['['.repeat(90_000), ...lines], /Line 1: this is no JSON, or has more in it/],
    [
      'a picture that no browser has room for',
      () => lines.map((line) => (line.includes('"photograph"') ? line.replace(PIXEL, HUGE) : line)),
      /20000 × 20000/,
    ],
    [
      'a mark that no browser has room for',
      () => lines.map((line) => (line.includes('"mark"') ? line.replace(PIXEL, HUGE) : line)),
      /20000 × 20000/,
    ],
    ['a format that is unsound', () => lines.map((line) => line.replace('"at":"10-25"', '"at":"9-25"')), /Line \d+: /],
  ])('%s: refused with its line, and nothing stays', async (_what, made, expected) => {
    const { id } = await begin();
    const answer = await send(id, 1, made());
    const last = answer.status === 200 ? await finish(id) : answer;
    expect(last.body.error?.message).toMatch(expected);
    expect(last.status).toBeGreaterThanOrEqual(400);
    await there.administrator.do('DELETE', `/imports/${id}`);
    await expect.poll(() => rowsOf(there)).toEqual({});
    expect((await finish(id)).status).toBe(404);
  });

  it('one that nobody goes on with is given up by itself, on whichever server', async () => {
    const { id } = await begin();
    await send(id, 1, lines.slice(0, -1));
    expect(Object.keys(await rowsOf(there))).toContain('cards');
    await giveUpQuietImports(there.server.app, 60_000);
    expect(Object.keys(await rowsOf(there))).toContain('cards');
    await giveUpQuietImports(there.server.app, -1000);
    await expect.poll(() => rowsOf(there)).toEqual({});
  });

  it('is nobody else’s while it comes in, and its pieces come in turn', async () => {
    const { id } = await begin();
    const other = await there.person('second', 'administrator');
    expect((await send(id, 1, lines, other)).status).toBe(404);
    expect((await send(id, 2, lines)).body.error.code).toBe('out-of-turn');
    const servers = [there.administrator, new Person((await there.another()).port)];
    servers[1]!.cookie = there.administrator.cookie;
    const answers = await Promise.all([...servers, ...servers].map((person) => send(id, 1, lines, person)));
    expect(answers.map(({ status, body }) => [status, body.lines])).toEqual(answers.map(() => [200, lines.length]));
    expect((await finish(id)).body.counts.card).toBe(3);
  });

  it('goes out without its history where that is not wanted', async () => {
    const kinds = (await exported(here, here.site, '?history=false')).map((line) => JSON.parse(line).kind);
    expect(kinds).not.toContain('read');
    expect(kinds).not.toContain('change');
    expect(kinds.at(-1)).toBe('end');
  });
});
