/** What does not belong, on screen and on paper: the likeliest first, with what puts it right, and a way back. */
import type { CaseSpecimen } from '@rawbits/api';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { identify } from '@rawbits/core/identify';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it, vi } from 'vitest';
import { PrintedFinding } from './PrintedFinding.tsx';
import { Suspects } from './Suspects.tsx';
import type { WorkingCase } from './useCase.ts';

afterEach(cleanup);
vi.mock('../../parts/print/PrintFoot.tsx', () => ({ PrintFoot: () => null }));

const card = (number: number, facility = '71'): CaseSpecimen => ({
  bits: encode(catalogued('26-8-16')!, { facility, number: String(number) }).toBinary(),
  printed: String(number),
});
const right = [9034, 9101, 9057, 9188, 9020, 9143].map((n) => card(n));
const found = (specimens: CaseSpecimen[]) =>
  identify(
    specimens.map(({ asRead: _, setAside: _aside, ...one }) => one),
    { library: CATALOGUE, range: { from: 9000n, to: 9009n } },
  );

/** A case that keeps what is done to it. */
function caseOf(specimens: CaseSpecimen[]) {
  const kept = { now: specimens, said: '' };
  const undoable = (what: string, make: (all: CaseSpecimen[]) => CaseSpecimen[]) => {
    kept.said = what;
    kept.now = make(kept.now);
  };
  return { kept, working: { undoable } as unknown as WorkingCase };
}

it.each([
  [
    'exchange the prints',
    (all: CaseSpecimen[]) => {
      [all[1]!.printed, all[3]!.printed] = [all[3]!.printed, all[1]!.printed];
    },
  ],
  [
    'the print is 9057',
    (all: CaseSpecimen[]) => {
      all[2]!.printed = '9075';
    },
  ],
  [
    'invert back',
    (all: CaseSpecimen[]) => {
      all[4]!.bits = [...all[4]!.bits].map((bit) => (bit === '1' ? '0' : '1')).join('');
    },
  ],
  [
    'put the bit in',
    (all: CaseSpecimen[]) => {
      all[5]!.bits = all[5]!.bits.slice(1);
    },
  ],
])('one click, %s, gives the case back as it was, with what was read', async (words, spoil) => {
  const wrong = right.map((one) => ({ ...one }));
  spoil(wrong);
  const { kept, working } = caseOf(wrong);
  render(<Suspects finding={found(wrong)} working={working} />);
  await userEvent.click(screen.getByRole('button', { name: words }));
  expect(kept.now.map(({ bits, printed }) => ({ bits, printed }))).toEqual(right);
  expect(kept.said).toContain(words);
  const changed = kept.now.find((one, i) => one.bits !== wrong[i]!.bits);
  if (changed) expect(changed.asRead).toBe(wrong[kept.now.indexOf(changed)]!.bits);
});

it('cards of another code get a group of their own, or are set aside', async () => {
  const mixed = [...right, card(9111, '88'), card(9077, '88')];
  const { kept, working } = caseOf(mixed);
  render(<Suspects finding={found(mixed)} working={working} />);
  await userEvent.click(screen.getByRole('button', { name: 'put them in a group of their own' }));
  expect(kept.now.map(({ group }) => group)).toEqual([...right.map(() => undefined), 'another code', 'another code']);
  await userEvent.click(screen.getByRole('button', { name: 'set aside' }));
  expect(kept.now.map(({ setAside }) => setAside ?? false)).toEqual([...right.map(() => false), true, true]);
});

it('on paper stand the box, the suspects, and what was put right', () => {
  const wrong = right.map((one, i) => (i === 2 ? { ...one, printed: '9075' } : { ...one }));
  const kept = wrong.map((one, i) => (i === 0 ? { ...one, asRead: '1'.repeat(26) } : one));
  render(<PrintedFinding name="Box" finding={found(wrong)} specimens={kept} />);
  const page = document.body.textContent!;
  expect(page).toContain('Of the 10 cards 9,000 to 9,009');
  expect(page).toContain('The print of card 3, 9075, stands as 9057');
  expect(page).toContain('put right; read as');
});
