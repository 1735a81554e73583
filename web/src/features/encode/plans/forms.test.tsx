/** The forms of a plan: whatever is typed, it is the chosen thing that changes, and a half-typed form outlives a reload. */
import { keyApi } from '@rawbits/api';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { beforeEach, expect, it } from 'vitest';
import type { Chosen } from '../../../parts/floorPlan/FloorPlan.tsx';
import { SITE, StandIn, show } from '../../../testing/page.tsx';
import { changed, type FilesPlan, fileOfKind, newApplication, newPlan } from './edit.ts';
import { Inspector } from './Inspector.tsx';
import { Parts } from './Parts.tsx';
import { TakePlanIn } from './TakePlanIn.tsx';

let plan: FilesPlan;
beforeEach(() => {
  localStorage.clear();
  new StandIn().on(keyApi.list, { site: SITE }, () => []);
  plan = changed(newPlan('Staff card'), (draft) => {
    draft.applications.push(newApplication(draft));
    draft.applications[0]!.files.push(fileOfKind('standard', 2));
  });
});

function Page({ first }: { first: Chosen }) {
  const [now, setNow] = useState(plan);
  const [chosen, setChosen] = useState<Chosen>(first);
  plan = now;
  return (
    <Inspector
      plan={now}
      chosen={chosen}
      onChoose={setChosen}
      edit={(change) => setNow(changed(now, change))}
      names={['Card master', 'Door number']}
    />
  );
}
const retype = async (label: string, text: string) => {
  const field = await screen.findByLabelText(label);
  await userEvent.clear(field);
  await userEvent.type(field, text);
  return field;
};
const numbers = () => plan.applications[0]!.files.map(({ number, name }) => `${number} ${name ?? ''}`.trim());

it('a file gets number 12 where there is a file 1: the digits go to one file, and the hand stays in the field', async () => {
  show(<Page first={{ application: '5A0001', file: 2 }} />);
  const field = await retype('Number', '12');
  expect(numbers()).toEqual(['1 credential', '12']);
  expect(document.activeElement).toBe(field);
});

it('an application cannot take the identifier of another', async () => {
  show(<Page first={{ application: '5A0002' }} />);
  await retype('Identifier', '5a0001');
  screen.getByText('another has it');
  expect(plan.applications.map(({ id }) => id)).toEqual(['5A0001', '5A0002']);
});

it('a field called otherwise stays in the checks that are over it', async () => {
  plan = changed(plan, (draft) => {
    const file = draft.applications[0]!.files[0]!;
    if ('fields' in file)
      file.fields.push({
        name: 'check',
        length: 2,
        content: {
          is: 'check',
          over: ['string'],
          poly: '1021',
          init: 'FFFF',
          reflect: false,
          xorOut: '0000',
          order: 'big',
        },
      });
  });
  show(<Page first={{ application: '5A0001', file: 1 }} />);
  const names = await screen.findAllByLabelText('Name');
  await userEvent.type(names.at(-1)!, ' of the card');
  const file = plan.applications[0]!.files[0]!;
  expect('fields' in file && file.fields).toMatchObject([
    { name: 'string of the card' },
    { content: { over: ['string of the card'] } },
  ]);
});

it('a sealing begun is there again after a reload, its passphrase is not', async () => {
  const custodian = () => new StandIn(['see the site', 'hold keys']).on(keyApi.list, { site: SITE }, () => []);
  custodian();
  const before = show(<Parts about="plan-1" plan={plan} />);
  await userEvent.click(await screen.findByText('Sealed with its keys, for a partner'));
  await userEvent.type(screen.getByLabelText('Partner'), 'Canteen till');
  await userEvent.selectOptions(screen.getByLabelText('What opens it'), 'passphrase');
  await userEvent.type(screen.getByLabelText(/Passphrase/), 'kelp and barnacle');
  await userEvent.type(screen.getByLabelText(/Why/), 'their new till');
  before.unmount();
  expect(JSON.stringify({ ...localStorage })).not.toContain('kelp');
  show(<Parts about="plan-1" plan={plan} />);
  expect((await screen.findByLabelText<HTMLInputElement>('Partner')).value).toBe('Canteen till');
  expect(screen.getByLabelText<HTMLInputElement>(/Why/).value).toBe('their new till');
  expect(screen.getByLabelText<HTMLInputElement>(/Passphrase/).value).toBe('');
});

it('what is pasted to be taken in is there again after a reload; sealed, it asks for its passphrase', async () => {
  const part = 'e30';
  const before = show(<TakePlanIn onDone={() => {}} onOpen={() => {}} />);
  const box = await screen.findByLabelText(/The plan as JSON/);
  await userEvent.click(box);
  await userEvent.paste(['eyJhbGciOiJkaXIifQ', part, part, part, part].join('.'));
  before.unmount();
  show(<TakePlanIn onDone={() => {}} onOpen={() => {}} />);
  await screen.findByLabelText(/Passphrase/);
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Open it' }).disabled).toBe(true);
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Take it in' }).disabled).toBe(true);
});
