/** A controller as it is shown: how it stands, what loading would do, and what one may do about it. */
import { type Controller, doorApi, eventApi, formatApi, type Permission } from '@rawbits/api';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { describe, expect, it } from 'vitest';
import { giveSizes, SITE, StandIn, show } from '../../testing/page.tsx';
import { DoorsScreen } from './DoorsScreen.tsx';

const controller = (more: Partial<Controller> = {}): Controller => ({
  id: 'shed',
  name: 'Boat shed',
  device: 'boat-shed',
  comparesFacility: true,
  wantedFormats: [],
  loadedFormats: [],
  wantedCards: 3,
  loadedCards: 2,
  standing: 'changes waiting',
  waiting: [{ change: 'add', what: 'card 2214/118406, Oline Strand, active' }],
  waitingCount: 1,
  waitingMore: false,
  loadedAt: '2026-11-24T23:30:05.000Z',
  readers: [],
  load: null,
  answers: true,
  ...more,
});
const running = {
  id: 'l1',
  state: 'running',
  done: 400,
  total: 1000,
  message: '',
  startedAt: '2026-11-25T10:00:00.000Z',
} as const;

const serve = (of: () => Controller[], permissions?: Permission[]) =>
  new StandIn(permissions)
    .on(doorApi.list, { site: SITE }, of)
    .on(eventApi.list, { site: SITE }, () => [])
    .on(formatApi.ofSite, { site: SITE }, () => []);

describe('doors', () => {
  it('says what waits, and loads what is asked for', async () => {
    let current = controller();
    const server = serve(() => [current]).on(doorApi.load, { site: SITE, id: 'shed' }, () => {
      current = controller({ load: running });
      return running;
    });
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    expect((await screen.findByTestId('standing')).textContent).toBe('1 change waiting');
    expect(screen.getByRole('list', { name: 'What loading Boat shed would change' }).textContent).toContain(
      'Oline Strand',
    );
    await userEvent.click(screen.getByRole('button', { name: 'Load Boat shed' }));
    expect(server.lines.at(-1)).toBe(`POST /sites/${SITE}/controllers/shed/loads`);
  });

  it('a load under way shows how far it is and can be stopped; the next one waits for it', async () => {
    let current = controller({ load: running });
    const stopped = 'Tormod Vik stopped the load. What the controller had is unchanged.';
    const server = serve(() => [current]).on(doorApi.cancelLoad, { site: SITE, id: 'shed' }, () => {
      current = controller({ load: { ...running, state: 'cancelled', message: stopped } });
      return current;
    });
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    const bar = (await screen.findByRole('progressbar', { name: 'Load' })) as HTMLProgressElement;
    expect([bar.value, bar.max]).toEqual([400, 1000]);
    expect((screen.getByRole('button', { name: 'Load Boat shed' }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole('button', { name: /^Stop/ }));
    expect(await screen.findByText(stopped)).toBeTruthy();
    expect(server.lines).toContain(`POST /sites/${SITE}/controllers/shed/loads/cancel`);
  });

  it('whoever may only look is offered nothing to load', async () => {
    serve(() => [controller()], ['see the site']);
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    await screen.findByTestId('standing');
    expect(screen.queryByRole('button', { name: /Load|Add/ })).toBeNull();
  });

  it('a refused load says why and what to do', async () => {
    serve(() => [controller()]).on(doorApi.load, { site: SITE, id: 'shed' }, () => ({
      code: 'being-marked',
      message: 'Which cards Boat shed should have is still being worked out: 500 of 20,000.',
      hint: 'Load it when that is done.',
    }));
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    await userEvent.click(await screen.findByRole('button', { name: 'Load Boat shed' }));
    expect((await screen.findByRole('alert')).textContent).toMatch(/500 of 20,000\..* Load it when that is done\./);
  });

  it('a device that is no device is told at its field before anything is sent', async () => {
    const server = serve(() => []);
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    await userEvent.click(await screen.findByRole('button', { name: 'Add a controller' }));
    await userEvent.type(screen.getByLabelText('Device'), 'Boat Shed');
    await userEvent.click(screen.getByRole('button', { name: 'Add' }));
    expect(await screen.findByText(/1 to 40 lower-case letters/)).toBeTruthy();
    await waitFor(() => expect(screen.getByLabelText('Name').getAttribute('aria-invalid')).toBe('true'));
    expect(server.lines.some((line) => line.startsWith('POST'))).toBe(false);
  });
});

describe('changing and removing', () => {
  it('a reader that goes to another controller takes its door along, and only that is sent', async () => {
    const reader = {
      id: 'r1',
      name: 'Boat shed, outside',
      kind: 'door',
      device: 'shed-out',
      controllerId: 'shed',
      doorId: 'd1',
      way: 'in',
    } as const;
    let sent: unknown;
    serve(() => [controller(), controller({ id: 'pier', name: 'Pier', device: 'pier' })])
      .on(doorApi.readers, { site: SITE }, () => [reader])
      .on(doorApi.offered, { site: SITE }, () => ({ answers: false, controllers: [], readers: [] }))
      .on(doorApi.changeReader, { site: SITE, id: 'r1' }, (body) => {
        sent = body;
        return { ...reader, controllerId: 'pier' };
      });
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    const line = await screen.findByText('Boat shed, outside');
    await userEvent.click(within(line.closest('li')!).getByRole('button', { name: 'change or remove' }));
    expect(await screen.findByText('No device host answers: type the name that it uses')).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText('Controller'), 'Pier');
    expect(screen.getByText(/^Its door goes with it/).textContent).toContain('Disconnect them');
    await userEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(sent).toEqual({ controllerId: 'pier' }));
  });

  it('a controller is removed as it is shown: what goes with it, and what it keeps', async () => {
    let all = [controller()];
    const removal = {
      name: 'Boat shed',
      readers: [{ id: 'r1', name: 'Boat shed, outside' }],
      doors: [{ id: 'd1', name: 'Boat shed door' }],
      groups: [{ id: 'g1', name: 'Boat crew' }],
      assertions: [{ id: 'a1', name: 'Only the crew at night', removed: true }],
      stays: ['Raw Bits last loaded 2 cards into Boat shed. It decides by what it has until it is disconnected.'],
      digest: 'what-was-shown',
    };
    const server = serve(() => all)
      .on(doorApi.offered, { site: SITE }, () => ({ answers: true, controllers: ['spare'], readers: [] }))
      .on(doorApi.removal, { site: SITE, id: 'shed' }, () => removal)
      .on(doorApi.remove, { site: SITE, id: 'shed' }, () => {
        all = [];
        return removal;
      });
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    await userEvent.click(await screen.findByRole('button', { name: 'change or remove' }));
    expect(await screen.findByText('1 device offered and not in use: choose one, or type a name')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Remove …' }));
    const review = await screen.findByRole('region', { name: 'Remove Boat shed' });
    for (const words of [
      'Boat shed, outside',
      'Boat shed door',
      'Boat crew',
      'Only the crew at night',
      'last loaded 2 cards',
    ])
      expect(review.textContent).toContain(words);
    await userEvent.click(screen.getByRole('button', { name: 'Remove Boat shed' }));
    expect(server.lines).toContain(`POST /sites/${SITE}/controllers/shed/removal`);
    await waitFor(() => expect(screen.queryByRole('region', { name: 'Remove Boat shed' })).toBeNull());
  });
});

describe('many controllers', () => {
  it('only those in sight are drawn, they are found by name or reader, and the sentence names a few', async () => {
    giveSizes();
    const many = Array.from({ length: 500 }, (_, i) =>
      controller({
        id: `c${i}`,
        name: `Controller ${i}`,
        device: `device-${i}`,
        readers: [{ id: `r${i}`, name: `Reader ${i}` }],
      }),
    );
    serve(() => many).on(doorApi.readers, { site: SITE }, () => []);
    show(<DoorsScreen />, { at: 'doors', path: 'doors' });
    expect(await screen.findByText('500 controllers')).toBeTruthy();
    expect(screen.getAllByTestId('standing').length).toBeLessThan(60);
    expect(document.body.textContent).toContain('Controller 5, 494 more: changes not loaded.');
    await userEvent.type(screen.getByLabelText('Search controllers'), 'reader 417');
    expect(await screen.findByText('1 controller')).toBeTruthy();
    expect(screen.getByRole('heading', { name: 'Controller 417' })).toBeTruthy();
  });
});
