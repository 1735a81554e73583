/** Entering a box as it is drawn: reviewed before anything is sent to be kept, and reviewed anew when it was changed. */
import { type BoxReview, boxApi, numberApi } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { encode } from '@rawbits/core/codec';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, it } from 'vitest';
import { giveSizes, SITE, type StandIn, show } from '../../../testing/page.tsx';
import { FORMAT, stockServer } from '../../../testing/stock.ts';
import { wayHead } from '../toController.ts';
import { verdictInWords } from './AgainstLabel.tsx';
import { BoxesScreen } from './BoxesScreen.tsx';
import { boxFrom, countTyped, lastFrom } from './entering.ts';
import { sheetOf } from './OneBox.tsx';

const bitsOf = (number: string) => encode(FORMAT, { facility: '58', number }).toBinary();
const REVIEW: BoxReview = {
  count: 50,
  fresh: 50,
  first: { number: '900', printed: '900', bits: bitsOf('900') },
  last: { number: '949', printed: '949', bits: bitsOf('949') },
  onFile: { cards: 0, states: {}, runs: [] },
  boxes: [],
  sameBits: { cards: 0, examples: [] },
  sameNumber: { cards: 0, more: false, controllers: [], examples: [] },
  reserved: [],
  below: null,
  above: null,
  seen: 'as it was',
};

let server: StandIn;
let review: BoxReview;
beforeEach(() => {
  giveSizes();
  review = REVIEW;
  server = stockServer()
    .on(boxApi.list, { site: SITE }, () => ({ boxes: [], next: null }))
    .on(numberApi.lines, { site: SITE }, () => [])
    .on(boxApi.review, { site: SITE }, () => review)
    .on(boxApi.enter, { site: SITE }, () => ({
      id: 'w1',
      does: 'enter' as const,
      state: 'running' as const,
      done: 0,
      total: 50,
      message: '',
      name: 'Fifty',
      box: null,
    }));
});
const posted = (path: string) => server.asked.filter(({ line }) => line === `POST /sites/${SITE}/${path}`);
const show26 = async (user: ReturnType<typeof userEvent.setup>) => {
  show(<BoxesScreen />, { at: 'stock/boxes?enter=', path: 'stock/boxes/:box?' });
  await user.type(await screen.findByLabelText('Facility code'), '58');
  await user.type(screen.getByLabelText('First number'), '900');
  await user.type(screen.getByLabelText('or how many'), '50');
};

it('is typed by its count, reviewed, and entered on what was reviewed', async () => {
  const user = userEvent.setup();
  await show26(user);
  expect((screen.getByLabelText('Last number') as HTMLInputElement).value).toBe('949');
  await user.click(screen.getByRole('button', { name: 'Review' }));
  expect(await screen.findByText('Nothing on file stands in the way.')).toBeTruthy();
  expect(posted('box-review')[0]!.body).toMatchObject({
    name: '58: 900 – 949',
    first: '900',
    last: '949',
    facility: '58',
  });
  await user.click(screen.getByRole('button', { name: 'Enter 50 cards' }));
  await waitFor(() => expect(posted('boxes')[0]!.body).toMatchObject({ seen: 'as it was', leaveOut: false }));
});

it('what is on file is told, and left out by name only; a change is reviewed anew', async () => {
  const user = userEvent.setup();
  review = {
    ...REVIEW,
    fresh: 40,
    onFile: { cards: 10, states: { active: 1, 'in stock': 9 }, runs: [{ from: '900', to: '909', cards: 10 }] },
    boxes: [{ id: 'b7', name: 'Spring', first: '860', last: '909', from: '900', to: '909' }],
    reserved: [{ from: '940', to: '960', note: 'divers', forEncoding: false }],
  };
  await show26(user);
  await user.click(screen.getByRole('button', { name: 'Review' }));
  const met = await screen.findByLabelText('What it meets');
  expect(met.textContent).toContain('10 of these cards are on file already (9 in stock, 1 active): 900 – 909');
  expect(met.textContent).toContain('Spring names 900 – 909, too');
  expect(met.textContent).toContain('divers');
  expect(screen.getByRole('button', { name: 'Leave 10 out, enter 40' })).toBeTruthy();
  await user.type(screen.getByLabelText('Last number'), '0');
  expect(screen.queryByLabelText('What it meets')).toBeNull();
  expect(screen.getByRole('button', { name: 'Review' })).toBeTruthy();
  expect(posted('boxes')).toEqual([]);
});

it('counts, names and prints as they are typed', () => {
  const typed = { ...{ name: '', formatId: FORMAT.id, facility: '58', first: '7', last: '9', notes: '' }, values: {} };
  const more = { blanks: false, state: 'in stock' as const, print: 'down' as const, printBy: '', firstPrint: '044' };
  expect(boxFrom(FORMAT, { ...typed, ...more })).toMatchObject({
    name: '58: 7 – 9',
    print: { kind: 'run', first: '044', order: 'down' },
  });
  expect([countTyped(typed), countTyped({ first: '9', last: '7' }), countTyped({ first: '', last: '7' })]).toEqual([
    3n,
    undefined,
    undefined,
  ]);
  expect([lastFrom('900', '50'), lastFrom('900', '0'), lastFrom('x', '5')]).toEqual(['949', undefined, undefined]);
});

it('the sheet of a box has every card from its print to what a controller compares', () => {
  const box = {
    id: 'b',
    name: 'B',
    formatId: FORMAT.id,
    count: 2,
    states: {},
    notes: '',
    blanks: false,
    enteredBy: '',
    enteredAt: '',
    revision: 1,
  };
  const label = {
    facility: '58',
    first: '900',
    last: '901',
    print: { kind: 'run' as const, first: '01', order: 'up' as const },
    values: {},
  };
  const [head, first, second] = sheetOf(FORMAT, { ...box, ...label });
  const raw = Bits.fromBinary(bitsOf('901'));
  expect(head!.slice(0, 7)).toEqual(wayHead([]).slice(0, 7));
  expect(first!.slice(0, 4)).toEqual(['01', '58', '900', bitsOf('900')]);
  // The same four bytes by a reader that sends them the other way round.
  const value = raw.toBigInt();
  const reversed = [0n, 8n, 16n, 24n].map((by) => ((value >> by) & 255n).toString(16).padStart(2, '0')).join('');
  expect(second!.slice(4, 7)).toEqual([value.toString(), raw.toHex(), reversed.toUpperCase()]);
});

it('a verdict names what the card is instead', () => {
  expect(verdictInWords({ is: 'another format', fits: [{ format: '34-16-16', facility: '12', number: '5' }] })).toBe(
    'not of this format: 34-16-16 12/5',
  );
  expect(verdictInWords({ is: 'another format', fits: [] })).toContain('nor of any in the library');
  expect(verdictInWords({ is: 'another code', facility: '59', number: '7' })).toBe('7: its facility code is 59');
});
