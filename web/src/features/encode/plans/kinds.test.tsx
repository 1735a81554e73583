/** Plans of sector cards and tags on the screen: what is chosen stands in the plan, and what the chip makes of it is told. */
import type { ChipPlan } from '@rawbits/api';
import { keyApi } from '@rawbits/api';
import { type SectorPlan, sectorPlanSchema, type TagPlan, tagPlanSchema } from '@rawbits/core/plan';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { beforeEach, describe, expect, it } from 'vitest';
import { SITE, StandIn, show } from '../../../testing/page.tsx';
import { newPlanOf } from './edit.ts';
import { SectorTable } from './SectorTable.tsx';
import { TagForm } from './TagForm.tsx';

let plan: ChipPlan;
beforeEach(() => {
  new StandIn().on(keyApi.list, { site: SITE }, () => []);
});

function Page() {
  const [now, setNow] = useState(plan);
  plan = now;
  return now.kind === 'tag' ? (
    <TagForm plan={now} onChange={setNow} />
  ) : (
    <SectorTable plan={now as SectorPlan} onChange={setNow} />
  );
}
const choose = async (label: string | RegExp, words: string) =>
  userEvent.selectOptions(await screen.findByLabelText(label), words);

describe('a tag', () => {
  beforeEach(() => {
    plan = newPlanOf('tag', 'Fob');
    show(<Page />);
  });
  const holds = (block: number) =>
    within(screen.getByRole('table', { name: 'Blocks of the tag' }))
      .getAllByRole('row')
      [block + 1]!.textContent?.replace(/^\d/, '');

  // Configuration words as the trade remembers them [mem, CHIPS].
  it('carries a string: configuration 00107060, three blocks, and nothing is locked', async () => {
    await screen.findByText('configuration 00107060');
    expect([1, 3, 4].map(holds)).toEqual(['senteverybody', 'senteverybody', 'emptyeverybody']);
  });

  it('sends 40 bits: 00148040, two blocks, a code and a number as its fields', async () => {
    await choose('It sends', '40 bits, as an ID tag');
    await screen.findByText('configuration 00148040');
    expect([2, 3].map(holds)).toEqual(['senteverybody', 'emptyeverybody']);
    expect((plan as TagPlan).sends).toMatchObject({ fields: [{ name: 'code' }, { name: 'number' }] });
    expect(tagPlanSchema.parse(plan)).toEqual(plan);
  });

  it('has a password of a new name, and is locked: who writes which block is told', async () => {
    await choose('Password', 'another key …');
    await userEvent.type(await screen.findByLabelText(/Password/), 'Fobs{Enter}');
    await choose('Locked for good', 'what it sends');
    expect(plan).toMatchObject({ password: 'Fobs', lock: 'contents' });
    expect([1, 7].map(holds)).toEqual(['sentnobody, for good', 'password "Fobs"the password']);
    await choose('Locked for good', 'that, and how it is set up');
    expect(holds(7)).toBe('password "Fobs"nobody, for good');
  });
});

describe('a sector card', () => {
  beforeEach(() => {
    plan = newPlanOf('sectors', 'Band');
    show(<Page />);
  });

  it('to begin with is one that can be encoded', () => {
    expect(sectorPlanSchema.parse(plan)).toEqual(plan);
  });

  it('a sector is in the directory by four hex digits, and by nothing less', async () => {
    const field = await screen.findByLabelText(/Application in the directory/);
    await userEvent.clear(field);
    await userEvent.type(field, '48');
    screen.getByText('four hex digits, or nothing');
    // Cleared it is in none; half typed that stays so.
    expect((plan as SectorPlan).sectors[0]!.application).toBeNull();
    await userEvent.type(field, '0a');
    expect((plan as SectorPlan).sectors[0]!.application).toBe('480A');
  });

  it('a sector that is touched is planned, and is left as it is delivered again', async () => {
    await userEvent.click(await screen.findByRole('button', { name: '7' }));
    await choose('Key A', 'Door sector');
    expect((plan as SectorPlan).sectors.map(({ number }) => number)).toEqual([1, 7]);
    await userEvent.click(screen.getByRole('button', { name: 'Leave this sector as it is delivered' }));
    expect((plan as SectorPlan).sectors.map(({ number }) => number)).toEqual([1]);
  });
});
