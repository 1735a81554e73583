/** Translations that a site has kept: one that was deleted can be had back. */
import { type NamedTranslation, translationApi } from '@rawbits/api';
import { TRANSLATION_SCHEMA } from '@rawbits/core/translate';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { SITE, StandIn, show } from '../../testing/page.tsx';
import { Kept } from './Kept.tsx';

const ONE: NamedTranslation = {
  id: 't1',
  name: 'desk to wall',
  notes: '',
  translation: {
    schema: TRANSLATION_SCHEMA,
    from: 'decimal',
    to: 'hex',
    bits: 32,
    invert: false,
    order: 'bytes reversed',
    drop: 0,
    keep: 32,
    write: { as: 'number' },
    add: '0',
  },
  createdBy: 'Tormod Vik',
  createdAt: '2026-01-01T00:00:00.000Z',
};

function site(permissions?: ConstructorParameters<typeof StandIn>[0]) {
  let kept = [ONE];
  const server = new StandIn(permissions)
    .on(translationApi.list, { site: SITE }, () => kept)
    .on(translationApi.remove, { site: SITE, id: 't1' }, () => {
      kept = [];
      return { removed: true } as never;
    })
    .on(translationApi.add, { site: SITE }, (body) => {
      const again = { ...ONE, ...(body as object), id: 't2' };
      kept = [again];
      return again;
    });
  show(<Kept />);
  return server;
}

it('deleted, it says so and has the focus at the way back; undone, it is there as it was', async () => {
  const server = site();
  await screen.findByText('decimal of 32 bits, bytes reversed, written in hex');
  await userEvent.click(screen.getByRole('button', { name: 'delete' }));
  const note = await screen.findByTestId('removed');
  expect(note.textContent).toContain('The translation desk to wall is deleted.');
  const undo = screen.getByRole('button', { name: 'Undo' });
  expect(document.activeElement).toBe(undo);
  await waitFor(() => expect(screen.queryByText('desk to wall')).toBeNull());
  await userEvent.click(undo);
  await screen.findByText('desk to wall');
  expect(screen.queryByTestId('removed')).toBeNull();
  expect(server.asked.find(({ line }) => line.startsWith('POST'))?.body).toEqual({
    name: 'desk to wall',
    translation: ONE.translation,
  });
});

it('whoever may not use formats sees it and deletes nothing', async () => {
  site(['see the site']);
  await screen.findByText('desk to wall');
  expect(screen.queryByRole('button', { name: 'delete' })).toBeNull();
});
