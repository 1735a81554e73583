/** The pad as a site sees it: what lies on it, and what that says of itself to anybody. */
import { randomBytes } from 'node:crypto';
import { type PadCard, type PadState, padApi } from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { CardRefusal, FilesHost, TagHost } from '@rawbits/core/host';
import { findCarrier, findTag } from '@rawbits/core/lf';
import { HostRefusal } from '../../devices/line.ts';
import { PadTransport } from '../../devices/padTransport.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { away, checkCredential } from './away.ts';

/** Major versions of the hardware, as GetVersion gives them: generations 1 to 3 [from memory]. */
const GENERATIONS: Record<number, number> = { 1: 1, 18: 2, 51: 3 };
const HARDWARE_MAJOR = 3;
const RANDOM_UID = 0x08;
/** SAK of cards that are known by it alone (ISO/IEC 14443-3 §6.5.3.4, and the chips' data sheets). */
const SECTORS: Record<number, '1K' | '4K'> = { 8: '1K', 24: '4K' };
const SPEAKS_APDUS = 0x20;

/** What a card gives to everybody; null where it wants a key first. */
async function ifAllowed<T>(ask: () => Promise<T>): Promise<T | null> {
  try {
    return await ask();
  } catch (error) {
    if (error instanceof CardRefusal) return null;
    throw error;
  }
}

/** What a tag says of itself to anybody: what it sends, and whether it gives its configuration. */
async function tagOn(transport: PadTransport, uid: Uint8Array): Promise<PadCard> {
  const host = new TagHost(transport);
  const heard = await host.listen();
  const hasPassword = (await host.configuration()) === undefined;
  return { kind: 'tag', uid: hexOf(uid), sends: heard === '' ? null : sendsOf(heard), hasPassword };
}

function sendsOf(heard: string): Extract<PadCard, { kind: 'tag' }>['sends'] {
  const tag = findTag(heard);
  if (tag) return { is: 'identification', data: tag.data.toString(16).toUpperCase().padStart(10, '0') };
  const bits = findCarrier(heard);
  if (bits !== undefined) return { is: 'string', bits };
  const once = heard.slice(0, heard.length / ROUNDS).match(/[01]{32}/g) ?? [];
  return {
    is: 'blocks',
    words: once.map((word) => Number.parseInt(word, 2).toString(16).toUpperCase().padStart(8, '0')),
  };
}
/** A tag is listened to for so many rounds. */
const ROUNDS = 3;

/** Selects the card on a pad and asks what it tells anybody. Throws HostRefusal where there is none, or two. */
async function identify(transport: PadTransport): Promise<PadCard> {
  const { uid, ats } = await transport.connect();
  try {
    if (transport.isTag) return await tagOn(transport, uid);
    const size = SECTORS[transport.sak];
    if (size) return { kind: 'sectors', uid: hexOf(uid), size };
    if (!(transport.sak & SPEAKS_APDUS)) return { kind: 'unknown', uid: hexOf(uid), sak: transport.sak };
    const host = new FilesHost(transport, (count) => new Uint8Array(randomBytes(count)));
    const version = await ifAllowed(host.version);
    const applications = await ifAllowed(() => host.applications());
    return {
      kind: 'files',
      uid: hexOf(uid),
      uidIsRandom: uid.length === 4 && uid[0] === RANDOM_UID,
      ats: hexOf(ats),
      generation: version ? GENERATIONS[version[HARDWARE_MAJOR]!] : undefined,
      bytesFree: await ifAllowed(() => host.freeMemory()),
      applications: applications?.map((id) => id.toString(16).toUpperCase().padStart(6, '0')) ?? null,
    };
  } finally {
    await transport.disconnect().catch(() => {});
  }
}

/** What lies on a pad, and what it says of itself to anybody. */
export async function identifyOn(
  app: App,
  site: string,
  pad: string | undefined,
): Promise<Pick<PadState, 'found' | 'problem'>> {
  try {
    return { found: await identify(new PadTransport(app.devices, site, pad)), problem: '' };
  } catch (error) {
    if (!(error instanceof HostRefusal || error instanceof CardRefusal)) throw error;
    return { found: null, problem: error.message };
  }
}

async function stateOf(app: App, site: string): Promise<PadState> {
  let cards: string[];
  try {
    ({ cards } = await app.devices.pad(site, 'pad', {}));
  } catch (error) {
    if (!(error instanceof HostRefusal)) throw error;
    return { answers: false, cards: [], found: null, problem: error.message };
  }
  if (cards.length === 0) return { answers: true, cards, found: null, problem: '' };
  // Whoever works there would lose the card that it has selected.
  if (await app.devices.isClaimed(site)) return { answers: true, cards, found: null, problem: 'A run has this pad.' };
  return { answers: true, cards, ...(await identifyOn(app, site, undefined)) };
}

const state = handle(padApi.state, ({ app, site }) => stateOf(app, site));

const lay = handle(padApi.lay, async ({ app, site, body }) => {
  body.cards.forEach(checkCredential);
  try {
    await app.devices.pad(site, 'padLay', { cards: body.cards });
  } catch (error) {
    if (error instanceof HostRefusal && (await app.devices.answers(site)))
      throw conflict('pad', error.message, 'Lay another credential on it.');
    throw away(error);
  }
  return stateOf(app, site);
});

const tear = handle(padApi.tear, async ({ app, site, body }) => {
  try {
    await app.devices.pad(site, 'padTear', body);
  } catch (error) {
    throw away(error);
  }
  return {};
});

export const padRoutes = [state, lay, tear];
