/** New uses of keys as custodians see them: what is agreed to is what was shown, and nobody agrees to their own. */
import { type KeyUseRequest, keyUseApi, permissionsOf } from '@rawbits/api';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { SITE, StandIn, show } from '../../../testing/page.tsx';
import { UsesWaiting } from './UsesWaiting.tsx';

const request = (more: Partial<KeyUseRequest>): KeyUseRequest => ({
  id: 'r',
  kind: 'reader',
  what: 'Give reader Main entrance the key Staff / Door number, by plan Staff card, version 1',
  exposure: [{ key: 'key Staff / Door number', places: ['in the reader Main entrance, as it is'] }],
  reach: [{ key: 'Door number', can: ['read file 1 of 5A1001'] }],
  notes: ['This plan has no mark yet.'],
  hosts: ['Rig'],
  askedBy: 'Aslaug',
  askedAt: '2026-12-01T10:00:00.000Z',
  notYou: null,
  digest: 'd1',
  ...more,
});

it('a custodian is shown what a key is exposed to and what it can do, and agrees to just that', async () => {
  const server = new StandIn([...permissionsOf(['key custodian'])])
    .on(keyUseApi.requests, { site: SITE }, () => [
      request({}),
      request({ id: 'own', what: 'Own', notYou: 'You asked for it yourself.', digest: 'd2' }),
    ])
    .on(keyUseApi.agree, { site: SITE, id: 'r' }, () => ({}));
  show(<UsesWaiting open />);
  const [theirs, own] = await screen.findAllByRole('listitem');
  for (const words of ['in the reader Main entrance, as it is', 'read file 1 of 5A1001', 'no mark yet', 'Rig'])
    expect(theirs!.textContent).toContain(words);
  expect(within(own!).queryByText('Agree')).toBeNull();
  expect(own!.textContent).toContain('You asked for it yourself.');
  expect(within(own!).getByText('Withdraw')).toBeTruthy();
  // One that has just come is agreed to by nobody who clicked on what was there before.
  const agree = within(theirs!).getByText<HTMLButtonElement>('Agree');
  expect(agree.disabled).toBe(true);
  await waitFor(() => expect(agree.disabled).toBe(false));
  await userEvent.click(agree);
  expect(server.asked.find(({ line }) => line.startsWith('POST'))).toMatchObject({
    line: `POST /sites/${SITE}/key-use-requests/r/agree`,
    body: { digest: 'd1' },
  });
});

it('whoever holds no keys sees what waits, and withdraws their own alone; nothing is agreed to while the store is locked', async () => {
  new StandIn([...permissionsOf(['technician'])]).on(keyUseApi.requests, { site: SITE }, () => [
    request({}),
    request({ id: 'own', notYou: 'You asked for it yourself.' }),
  ]);
  const { unmount } = show(<UsesWaiting open />);
  const [theirs, own] = await screen.findAllByRole('listitem');
  expect(within(theirs!).queryAllByRole('button')).toEqual([]);
  expect(
    within(own!)
      .getAllByRole('button')
      .map(({ textContent }) => textContent),
  ).toEqual(['Withdraw']);
  unmount();
  new StandIn([...permissionsOf(['key custodian'])]).on(keyUseApi.requests, { site: SITE }, () => [request({})]);
  show(<UsesWaiting open={false} />);
  expect((await screen.findByText<HTMLButtonElement>('Agree')).disabled).toBe(true);
});
