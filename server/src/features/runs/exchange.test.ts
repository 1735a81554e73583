/** Everything that was said to a card, kept as a file, and played again on a simulated one with the keys of the store. */
import {
  exchangeApi,
  type KeptExchange,
  keyApi,
  keyStoreApi,
  type PlayedAgain,
  planApi,
  type Run,
  runApi,
} from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BLANKS, openStation, PASSPHRASE, type Station, staffCard, uidOf } from '../../testing/station.ts';

describe('a kept exchange', () => {
  let station: Station;
  let site: string;
  let kept: KeptExchange;
  const admin = () => station.house.administrator;
  const play = (body: KeptExchange): Promise<PlayedAgain> => admin().ask(exchangeApi.play, { site }, body);
  const said = (text: string) => (run: Run) => run.pads.some(({ says }) => says.includes(text));
  async function over(run: Run): Promise<void> {
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
  }

  /** A card that was torn away twice and finished, whose key rolled over, and which was verified. */
  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    const { pad } = station.house.rig;
    const transmit = pad.transmit.bind(pad);
    let count = 0;
    pad.transmit = (apdu) => {
      const n = count++;
      if (n === 24) pad.tearAtNext('after');
      if (n === 60) pad.tearAtNext('before');
      return transmit(apdu);
    };
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(0, 1) } });
    for (const torn of [24, 60]) {
      await station.lay(BLANKS[0]!);
      await station.until(run.id, (run) => count > torn && said('gone from the pad')(run));
    }
    await station.lay(BLANKS[0]!);
    await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    await station.lay();
    const id = station.keys.get('Door number')!;
    await station.custodian.ask(keyApi.addVersion, { site, id }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id, version: '2' });
    for (const [kind, words] of [
      ['bring along', 'Brought along and verified'],
      ['verify', 'byte by byte'],
    ] as const) {
      const next = await station.start({ kind });
      await station.lay(BLANKS[0]!);
      await station.until(next.id, said(words));
      await over(next);
      kept = await admin().ask(exchangeApi.one, { site, id: next.id, seq: '1' });
    }
  });
  afterAll(() => station.close());

  it('has every run of the card from the blank on, and says where it was gone', () => {
    expect([kept.card, kept.uid, kept.runs.map(({ kind }) => kind)]).toEqual([
      '41/201',
      uidOf(0),
      ['encode', 'bring along', 'verify'],
    ]);
    const lines = kept.runs[0]!.steps.flatMap(({ exchange }) => exchange ?? []);
    expect(lines.flatMap(({ gone }, i) => (gone ? [i] : []))).toEqual([24, 60]);
  });

  it('is answered by a simulated card as it was by the real one, byte for byte', async () => {
    const lines = kept.runs.flatMap(({ steps }) => steps.flatMap(({ exchange }) => exchange ?? []));
    expect(await play(kept)).toEqual({ played: lines.length, unseen: 2, differs: null, gap: null });
  });

  it('tells which command is answered otherwise, in words and not in bytes', async () => {
    const changed = structuredClone(kept);
    const steps = changed.runs[1]!.steps;
    const step = steps.find(({ step }) => step.do === 'change key')!;
    const at = step.exchange!.findLastIndex(({ command }) => command.startsWith('90AF'));
    step.exchange![at]!.answer = `00${step.exchange![at]!.answer.slice(2)}`;
    expect((await play(changed)).differs).toEqual({
      run: 1,
      step: step.n,
      line: at + 1,
      command: 'go on',
      kept: 'done',
      came: 'other bytes',
    });
    const foreign = structuredClone(kept);
    foreign.uid = uidOf(1);
    // Keys are made from the UID: with another the first key that was changed is another.
    expect((await play(foreign)).differs).toMatchObject({ run: 0, command: 'ChangeKey' });
  });

  it('of a card that draws its UID anew: known again by a key, verified, and played with what it said before that', async () => {
    const plan = staffCard({ name: 'Night card', randomUid: true });
    const [master, door] = plan.kind === 'files' ? plan.keys : [];
    // The door's key is the same on all cards: by it the card tells its UID.
    const planId = (
      await admin().ask(
        planApi.add,
        { site },
        { plan: { ...plan, keys: [master!, { ...door!, each: 'all' }] } as never },
      )
    ).id;
    const run = await station.start({ planId, cards: { from: 'list', cards: station.cards.slice(1, 2) } });
    const { pad } = station.house.rig;
    const transmit = pad.transmit.bind(pad);
    let count = 0;
    pad.transmit = (apdu) => {
      // Torn at the last command, when it hides its UID already.
      if (/^905C/.test(hexOf(apdu)) && count++ === 0) pad.tearAtNext('after');
      return transmit(apdu);
    };
    await station.lay(BLANKS[1]!);
    await station.until(run.id, said('gone from the pad'));
    await station.lay(BLANKS[1]!);
    await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    await station.lay();
    const verify = await station.start({ planId, kind: 'verify' });
    await station.lay(BLANKS[1]!);
    await station.until(verify.id, said('byte by byte'));
    await over(verify);
    const all = await admin().ask(exchangeApi.one, { site, id: verify.id, seq: '1' });
    expect([all.uid, all.runs.map(({ kind }) => kind)]).toEqual([uidOf(1), ['encode', 'verify']]);
    const again = all.runs[0]!.steps.filter(({ step }) => step.do === 'recognise')[1]!;
    expect(again.exchange!.some(({ command }) => command.startsWith('9051'))).toBe(true);
    expect(await play(all)).toMatchObject({ differs: null, gap: null });
  });

  it.each([
    ['another file', { schema: 'rawbits/plan@1' }, /no file of commands/],
    ['a UID that is none', { uid: '04' }, /4, 7 or 8 bytes/],
    ['no runs', { runs: [] }, /nothing was said/],
  ])('%s is refused in words', async (_, more, words) => {
    const { status, body } = await admin().call('POST', `/sites/${site}/exchanges/play`, { ...kept, ...more });
    expect([status, JSON.stringify(body.error)]).toEqual([422, expect.stringMatching(words)]);
  });

  it('more commands than any card was asked, and a command that is none, are refused in words', async () => {
    const { status, body } = await admin().call('POST', `/sites/${site}/exchanges/play`, withLines(21, 1000));
    expect([status, body.error.message]).toEqual([422, expect.stringContaining('20000 are played at most')]);
    const broken = withLines(1, 1);
    broken.runs[0]!.steps[0]!.exchange![0]!.command = '90ZZ';
    const refused = await admin().call('POST', `/sites/${site}/exchanges/play`, broken);
    expect([refused.status, refused.body.error.message]).toEqual([422, '"Z" is no hex digit.']);
  });

  /** So many steps of so many commands each. */
  function withLines(steps: number, lines: number): KeptExchange {
    const file = structuredClone(kept);
    const [run] = file.runs;
    const exchange = Array.from({ length: lines }, () => ({ command: '9060000000', answer: '91AE' }));
    run!.steps = Array.from({ length: steps }, (_, n) => ({
      ...run!.steps[0]!,
      n,
      exchange: structuredClone(exchange),
    }));
    return file;
  }

  it('a plan that is not of this site is refused, and a locked store is said', async () => {
    const foreign = structuredClone(kept);
    foreign.runs[0]!.plan.id = '00000000-0000-7000-8000-000000000000';
    expect((await admin().call('POST', `/sites/${site}/exchanges/play`, foreign)).status).toBe(404);
    await station.custodian.ask(keyStoreApi.lock, { site });
    const locked = await admin().call('POST', `/sites/${site}/exchanges/play`, kept);
    expect([locked.status, locked.body.error.message]).toEqual([423, expect.stringContaining('locked')]);
    await station.custodian.ask(keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
  });
});
