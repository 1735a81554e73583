/** Keys as they are drawn: nothing that is shown once goes, and no form changes its key, by what others do meanwhile. */
import {
  type ComponentSheet,
  type Key,
  type KeySet,
  type KeyVersion,
  keyApi,
  keyBackupApi,
  keyHoldingApi,
  permissionsOf,
} from '@rawbits/api';
import { act, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { beforeEach, describe, expect, it } from 'vitest';
import { api } from '../../platform/api/api.ts';
import { SITE, StandIn, show } from '../../testing/page.tsx';
import { Backups } from './Backups.tsx';
import { SetsAndKeys } from './SetsAndKeys.tsx';

const AT = '2026-11-26T00:00:00.000Z';
const component = (part: number, mine: boolean): KeyVersion['components'][number] => ({
  part,
  of: 2,
  custodian: `Custodian ${part}`,
  checkValue: 'AAAAAA',
  givenAt: AT,
  mine,
});
const versionOf = (more: Partial<KeyVersion> = {}): KeyVersion => ({
  version: 1,
  state: 'ready',
  checkValue: 'C0FFEE',
  checkOf: 'cmac',
  origin: 'made',
  warning: '',
  validFrom: null,
  validTo: null,
  madeBy: 'Iris',
  madeAt: AT,
  parts: 0,
  components: [],
  cards: 0,
  ...more,
});
const keyOf = (name: string, version: KeyVersion): Key => ({
  id: name.toLowerCase(),
  setId: 's',
  name,
  kind: 'aes128',
  purpose: 'read',
  notes: '',
  current: version.state === 'ready' ? 1 : null,
  retiredAt: null,
  versions: [version],
});
const SHEET: ComponentSheet = {
  site: 'Skerry Point',
  set: 'Staff',
  key: 'Master',
  kind: 'aes128',
  version: 1,
  part: 2,
  of: 2,
  custodian: 'Custodian 2',
  hex: '00112233445566778899AABBCCDDEEFF',
  checkValue: 'BBBBBB',
  checkOf: 'cmac',
};

describe('keys', () => {
  let server: StandIn;
  let keys: Key[];
  beforeEach(() => {
    keys = [];
    const sets = (): KeySet[] => [{ id: 's', name: 'Staff', notes: '', keys }];
    server = new StandIn([...permissionsOf(['key custodian'])])
      .on(keyApi.list, { site: SITE }, sets)
      .on(keyHoldingApi.list, { site: SITE }, () => [])
      .on(keyBackupApi.list, { site: SITE }, () => []);
  });
  const elsewhere = (store: ReturnType<typeof show>['store'], now: Key[]) =>
    act(async () => {
      keys = now;
      store.dispatch(api.util.invalidateTags(['Keys']));
    });

  it('whoever gives the last component has its sheet, though the key is there with it', async () => {
    keys = [
      keyOf('Master', versionOf({ state: 'waiting', checkValue: null, parts: 2, components: [component(1, false)] })),
    ];
    const ready = keyOf(
      'Master',
      versionOf({ origin: 'components', parts: 2, components: [component(1, false), component(2, true)] }),
    );
    server.on(keyApi.give, { site: SITE, id: 'master', version: '1' }, () => {
      keys = [ready];
      return { key: ready, sheet: SHEET };
    });
    show(<SetsAndKeys open={true} />, { at: 'keys/master', path: 'keys/:key?' });
    await userEvent.click(await screen.findByRole('button', { name: 'Make mine and print it' }));
    await screen.findByText('in use');
    expect(screen.getByText('Component 2 of 2')).toBeTruthy();
    expect(screen.getByText('0011 2233 4455 6677 8899 AABB CCDD EEFF')).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'I have it' }));
    expect(screen.queryByText('Component 2 of 2')).toBeNull();
  });

  it('a sheet stays while the other custodian gives the last component', async () => {
    const waiting = versionOf({ state: 'waiting', checkValue: null, parts: 2 });
    keys = [keyOf('Master', waiting)];
    server.on(keyApi.give, { site: SITE, id: 'master', version: '1' }, () => {
      keys = [keyOf('Master', { ...waiting, components: [component(1, true)] })];
      return { key: keys[0]!, sheet: { ...SHEET, part: 1 } };
    });
    const { store } = show(<SetsAndKeys open={true} />, { at: 'keys/master', path: 'keys/:key?' });
    await userEvent.click(await screen.findByRole('button', { name: 'Make mine and print it' }));
    await screen.findByText('Component 1 of 2');
    await elsewhere(store, [
      keyOf('Master', versionOf({ parts: 2, components: [component(1, true), component(2, false)] })),
    ]);
    await screen.findByText('in use');
    expect(screen.getByText('Component 1 of 2')).toBeTruthy();
  });

  it('a form stays with its key when another that sorts before it is added elsewhere', async () => {
    keys = [keyOf('Master', versionOf())];
    const { store } = show(<SetsAndKeys open={true} />, { at: 'keys', path: 'keys/:key?' });
    await userEvent.click(await screen.findByRole('button', { name: 'Uncover …' }));
    await userEvent.type(screen.getByLabelText('Why'), 'to set the reader up');
    await elsewhere(store, [keyOf('Access', versionOf()), ...keys]);
    await screen.findByText('Access');
    expect(screen.getByRole('heading', { name: 'Uncover Master, version 1' })).toBeTruthy();
    expect((screen.getByLabelText('Why') as HTMLInputElement).value).toBe('to set the reader up');
  });

  it('what was typed for a backup stays when the store locks meanwhile', async () => {
    const Screen = () => {
      const [open, setOpen] = useState(true);
      return (
        <>
          <button type="button" onClick={() => setOpen(!open)}>
            lock or unlock
          </button>
          <Backups open={open} />
        </>
      );
    };
    show(<Screen />);
    await userEvent.type(await screen.findByLabelText('Why'), 'the monthly one');
    await userEvent.type(screen.getByLabelText('Second part'), 'half of it');
    await userEvent.click(screen.getByRole('button', { name: 'lock or unlock' }));
    for (const name of ['Ask a second custodian', 'Rehearse'])
      expect(screen.getByRole('button', { name })).toHaveProperty('disabled', true);
    await userEvent.click(screen.getByRole('button', { name: 'lock or unlock' }));
    expect((screen.getByLabelText('Why') as HTMLInputElement).value).toBe('the monthly one');
    expect((screen.getByLabelText('Second part') as HTMLInputElement).value).toBe('half of it');
  });
});
