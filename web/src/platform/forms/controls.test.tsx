/** Controls of forms: what is typed is never swapped for something else, and nothing is taken over that is not right. */
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, describe, expect, it } from 'vitest';
import { Checks, Named, Shaped, Whole } from './controls.tsx';

afterEach(cleanup);

/** A control with its value beside it. */
function Held<T>({ first, children }: { first: T; children: (value: T, set: (value: T) => void) => React.ReactNode }) {
  const [value, set] = useState(first);
  return (
    <>
      {children(value, set)}
      <output>{JSON.stringify(value)}</output>
      <button type="button">elsewhere</button>
    </>
  );
}
const taken = () => JSON.parse(screen.getByRole('status').textContent ?? '');
const field = () => screen.getByRole<HTMLInputElement>('textbox');
const retype = async (text: string) => {
  await userEvent.clear(field());
  if (text !== '') await userEvent.type(field(), text);
};
const leave = () => userEvent.click(screen.getByRole('button', { name: 'elsewhere' }));

describe('a name', () => {
  const draw = (more: object = {}) =>
    render(
      <Held first="holder">
        {(value, set) => (
          <Named label="Name" value={value} most={8} taken={['holder', 'number']} onChange={set} {...more} />
        )}
      </Held>,
    );

  it('cleared, nothing is put in its place: the one before holds until another is typed', async () => {
    draw();
    await retype('');
    expect([field().value, taken()]).toEqual(['', 'holder']);
    screen.getByText('it has to be called something');
    await leave();
    expect([field().value, taken()]).toEqual(['', 'holder']);
    await userEvent.type(field(), 'boat');
    expect([field().value, taken()]).toEqual(['boat', 'boat']);
  });

  it.each([
    ['a ninth letter', 'up to 8 characters, these are 14', 'a ninth'],
    ['number', 'another is called so', 'numbe'],
  ])('%s is kept as it was typed, and not taken over', async (text, told, before) => {
    draw();
    await retype(text);
    await leave();
    expect(field().value).toBe(text);
    screen.getByText(told);
    expect(taken()).toBe(before);
  });

  it('spaces around it are no part of it, and one that may be empty can be cleared', async () => {
    draw({ isOptional: true });
    await retype(' boat ');
    expect(taken()).toBe('boat');
    await leave();
    expect(field().value).toBe('boat');
    await retype('');
    expect(taken()).toBe('');
  });
});

describe('a number', () => {
  it.each([
    ['12', 12, undefined],
    ['1', 2, 'another has it'],
    ['99', 9, 'from 0 to 31'],
    ['4.5', 4, 'from 0 to 31'],
    ['', 2, 'from 0 to 31'],
  ])('%s typed over 2, where 1 is another’s: %i, %s', async (text, now, told) => {
    render(
      <Held first={2}>
        {(value, set) => <Whole label="Number" value={value} min={0} max={31} taken={[1, 2]} onChange={set} />}
      </Held>,
    );
    await retype(text);
    await leave();
    expect([field().value, taken()]).toEqual([text, now]);
    if (told) screen.getByText(told);
  });
});

describe('a text of a shape', () => {
  it.each([
    ['5a0002', '5A0002', undefined],
    ['5a00', '5A0001', 'six hex digits'],
    ['5a0003', '5A0001', 'another has it'],
  ])('%s typed over 5A0001: %s, %s', async (text, now, told) => {
    render(
      <Held first="5A0001">
        {(value, set) => (
          <Shaped
            label="Identifier"
            value={value}
            shape={/^[0-9A-F]{6}$/}
            complaint="six hex digits"
            taken={['5A0001', '5A0003']}
            onChange={set}
          />
        )}
      </Held>,
    );
    await retype(text);
    await leave();
    expect([field().value, taken()]).toEqual([text.toUpperCase(), now]);
    if (told) screen.getByText(told);
  });
});

it('names with check marks: what is chosen keeps the order in which it was chosen', async () => {
  render(
    <Held first={['c'] as string[]}>
      {(value, set) => <Checks names={['a', 'b', 'c']} chosen={value} onChange={set} />}
    </Held>,
  );
  await userEvent.click(screen.getByLabelText('a'));
  expect(taken()).toEqual(['c', 'a']);
  await userEvent.click(screen.getByLabelText('c'));
  expect(taken()).toEqual(['a']);
});
