/** A print that is not the read's as it was taken: the reading that it bears out is one click away, or a case is. */
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { printLayoutLine } from '@rawbits/core/format';
import { intake } from '@rawbits/core/intake';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { readingChosen } from '../../parts/inHand/slice.ts';
import { viewOf } from './view.ts';
import { WhatPrintTells } from './WhatPrintTells.tsx';

const { heard, formats } = vi.hoisted(() => ({
  heard: { dispatched: [] as unknown[], started: [] as unknown[], went: [] as unknown[], may: true },
  formats: [] as never[],
}));
vi.mock('../../platform/endpoints/formats.ts', () => ({ useFormatsQuery: () => ({ data: formats }) }));
vi.mock('../../platform/endpoints/cases.ts', () => ({
  useStartCaseMutation: () => [
    async (body: unknown) => {
      heard.started.push(body);
      return { data: { id: 'new' } };
    },
    {},
  ],
}));
vi.mock('../../platform/site/useSite.ts', () => ({ useSite: () => ({ id: 'skerry', may: () => heard.may }) }));
vi.mock('../../platform/state/hooks.ts', () => ({
  useAppDispatch: () => (action: unknown) => heard.dispatched.push(action),
}));
vi.mock('react-router', () => ({ useNavigate: () => (to: string) => heard.went.push(to) }));

for (const format of CATALOGUE)
  formats.push({
    format,
    version: 1,
    layout: printLayoutLine(format),
    createdAt: '2026-01-01T00:00:00.000Z',
    createdBy: 'Raw Bits',
    reason: 'from the catalogue',
    newest: 1,
    retiredAt: null,
    provenOn: 0,
    adopted: false,
  } as never);
beforeEach(() => Object.assign(heard, { dispatched: [], started: [], went: [], may: true }));
afterEach(cleanup);

const sent = encode(catalogued('33-7-24')!, { facility: '12', number: '9214711' });
const readings = intake(sent.toHex(), { formats: CATALOGUE }).readings.map(({ notation, bits, note = '' }) => ({
  notation,
  bits: bits.toBinary(),
  note,
}));
const whole = { bits: readings[0]!.bits, from: 'pasted, hex', at: '2026-01-01T00:00:00.000Z', id: null, readings };
const show = (printed: string) =>
  render(<WhatPrintTells inHand={whole} printed={printed} view={viewOf(whole.bits, formats, printed, null)} />);

it('33 bits in nine hex digits: the print tells the length, and one click reads it so', async () => {
  expect(whole.bits).toHaveLength(36);
  show('9214711');
  await userEvent.click(screen.getByRole('button', { name: 'Read it so' }));
  expect(heard.dispatched).toEqual([readingChosen(readings.find(({ bits }) => bits === sent.toBinary())!)]);
  expect(screen.queryByText('Start a case with this read')).toBeNull();
});

it('where no reading gives it, one click starts a case with read and print', async () => {
  show('777');
  await userEvent.click(screen.getByRole('button', { name: 'Start a case with this read' }));
  expect(heard.started).toEqual([
    {
      site: 'skerry',
      name: '36 bits, 777',
      specimens: [{ bits: whole.bits, source: 'pasted, hex', printed: '777' }],
    },
  ]);
  expect(heard.went).toEqual(['/skerry/identify/new']);
});

it('says nothing before a print is typed, and offers no case to those who may not identify', () => {
  show('');
  expect(document.body.textContent).toBe('');
  cleanup();
  heard.may = false;
  show('777');
  expect(screen.queryByRole('button')).toBeNull();
});

it('says with how many formats the number agrees, and which card would tell them apart', () => {
  const read = encode(catalogued('26-8-16')!, { facility: '0', number: '4021' }).toBinary();
  const hand = { bits: read, from: 'Main entrance', at: whole.at, id: 'r', readings: [] };
  render(<WhatPrintTells inHand={hand} printed="4021" view={viewOf(read, formats, '4021', null)} />);
  expect(screen.getByTestId('rivals').textContent).toBe(
    'A card with this number agrees with 2 formats, of 26 bits. A card that would tell them apart: 65536.',
  );
});
