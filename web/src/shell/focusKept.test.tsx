import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, expect, it } from 'vitest';
import { useFocusKept } from './useFocusKept.ts';

afterEach(cleanup);

function Page() {
  useFocusKept();
  const [rows, setRows] = useState(['one', 'two']);
  const [busy, setBusy] = useState(false);
  const work = () => {
    setBusy(true);
    setTimeout(() => setBusy(false), 30);
  };
  return (
    <main id="screen" tabIndex={-1}>
      {rows.map((row) => (
        <section key={row} aria-label={row}>
          <p>
            <button type="button" onClick={() => setRows(rows.filter((other) => other !== row))}>
              delete {row}
            </button>
          </p>
        </section>
      ))}
      <button type="button" disabled={busy} onClick={work}>
        work
      </button>
    </main>
  );
}
const settled = () => new Promise((resolve) => setTimeout(resolve, 60));

it('what was deleted under the focus leaves it with what stood around it', async () => {
  render(<Page />);
  screen.getByRole('button', { name: 'delete one' }).focus();
  await userEvent.keyboard('{Enter}');
  await settled();
  expect(document.activeElement).toBe(screen.getByRole('main'));
  await userEvent.tab();
  expect(document.activeElement).toBe(screen.getByRole('button', { name: 'delete two' }));
});

it('a button that was busy has the focus again', async () => {
  render(<Page />);
  const button = screen.getByRole('button', { name: 'work' });
  button.focus();
  // Browsers take the focus from what is disabled, jsdom does not.
  button.blur();
  button.click();
  await new Promise((resolve) => setTimeout(resolve));
  expect([button.matches(':disabled'), document.activeElement]).toEqual([true, document.body]);
  await settled();
  expect(document.activeElement).toBe(button);
});

it('who leaves everything by a press beside it is let go', async () => {
  render(<Page />);
  const button = screen.getByRole('button', { name: 'work' });
  button.focus();
  fireEvent.pointerDown(document.body);
  button.blur();
  screen.getByRole('button', { name: 'delete one' }).click();
  await settled();
  expect(document.activeElement).toBe(document.body);
});
