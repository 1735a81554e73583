/** Several pasted lines: counted, what is wrong first, taken all or none; a refusal is told in its own words, and nothing is lost by it. */
import { CATALOGUE } from '@rawbits/core/catalogue';
import { readsIn } from '@rawbits/core/intake';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { rows } from '../testing/rows.ts';
import { SeveralReads } from './SeveralReads.tsx';

const { server, rights, told } = vi.hoisted(() => ({
  server: {
    sent: [] as unknown[],
    error: undefined as { message: string; hint: string } | undefined,
  },
  rights: { may: true },
  told: [] as unknown[],
}));
vi.mock('../platform/endpoints/reads.ts', () => ({
  useKeepReadsMutation: () => [
    async (request: { reads: unknown[] }) => {
      server.sent.push(request);
      return server.error ? { error: server.error } : { data: { kept: request.reads.length } };
    },
    { isLoading: false, error: server.error },
  ],
}));
vi.mock('../platform/site/useSite.ts', () => ({ useSite: () => ({ id: 'skerry', may: () => rights.may }) }));
vi.mock('../platform/state/hooks.ts', () => ({ useAppDispatch: () => (action: unknown) => told.push(action) }));

// The browser has them; here no dialog is ever open.
HTMLDialogElement.prototype.showModal ??= function showModal(this: HTMLDialogElement) {
  this.open = true;
};
HTMLDialogElement.prototype.close ??= function close(this: HTMLDialogElement) {
  this.open = false;
  this.dispatchEvent(new Event('close'));
};

beforeEach(() => {
  server.sent = [];
  server.error = undefined;
  rights.may = true;
});
afterEach(cleanup);

const LINES = '28E4694 26 bits\nno read at all\n\n071,09034\nreader 2: 26 bits 0x28E4694';
function show(text: string) {
  const closed = vi.fn();
  const readAgain = (line: string) => readsIn(line, { formats: CATALOGUE });
  render(<SeveralReads lines={readAgain(text)} readAgain={readAgain} onClose={closed} />);
  return closed;
}
it('says how many can be taken, and names each line that cannot before the others', () => {
  show(LINES);
  expect(screen.getByRole('heading').textContent).toBe('4 lines, each a read of its own');
  screen.getByText('3 can be taken; 1 cannot: put it right here, or it is left where it came from.');
  const all = rows();
  expect(all.map(([row]) => row)).toEqual(['2', '1', '4', '5']);
  expect(all[0]![2]).toContain('belongs to no notation of a read');
  expect(all[1]![2]).toBe('26 bits, hex · or 1 other way');
  expect(all[3]![2]).toContain('passed over: reader 2: 26 bits …');
});

it('takes the first reading of each good line, in their order, and closes', async () => {
  const closed = show(LINES);
  await userEvent.click(screen.getByRole('button', { name: 'Take the 3 reads' }));
  const bits = (hex: string, length: number) => BigInt(`0x${hex}`).toString(2).padStart(length, '0');
  expect(server.sent).toEqual([
    {
      site: 'skerry',
      reads: [
        { bits: bits('28E4694', 26), notation: 'hex' },
        // 71 × 2^16 + 9034.
        { bits: bits('47234A', 24), notation: 'facility,number print (low 24 bits)' },
        { bits: bits('28E4694', 26), notation: 'hex' },
      ],
    },
  ]);
  expect(closed).toHaveBeenCalledOnce();
});

it('stays open where the server refuses, in the server’s own words', async () => {
  server.error = { message: 'Nothing was kept.', hint: 'Try it again.' };
  const closed = show(LINES);
  await userEvent.click(screen.getByRole('button', { name: 'Take the 3 reads' }));
  expect(screen.getByRole('alert').textContent).toBe('Nothing was kept. Try it again.');
  expect(closed).not.toHaveBeenCalled();
});

it('offers nothing to those who may take no reads, or where no line is one', () => {
  rights.may = false;
  show(LINES);
  expect(screen.getByRole('button', { name: 'Take the 3 reads' })).toHaveProperty('disabled', true);
  screen.getByText('You may look at reads, and not take any.');
  cleanup();
  rights.may = true;
  show('nothing\nat all');
  expect(screen.getByRole('button', { name: 'Take the 0 reads' })).toHaveProperty('disabled', true);
});

it('a line that cannot be taken is put right in its place, and taken with the others', async () => {
  show(LINES);
  const field = screen.getByRole('textbox', { name: 'Row 2, put right' });
  await userEvent.clear(field);
  screen.getByText('left out');
  await userEvent.type(field, '28E4695 26 bits');
  expect(rows().map(([row]) => row)).toEqual(['2', '1', '4', '5']);
  expect(rows()[0]![2]).toContain('26 bits, hex');
  await userEvent.click(screen.getByRole('button', { name: 'Take the 4 reads' }));
  expect(server.sent).toMatchObject([{ reads: [{}, { bits: (0x28e4695).toString(2) }, {}, {}] }]);
});
