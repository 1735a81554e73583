import { act, render, screen } from '@testing-library/react';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import { expect, it } from 'vitest';
import { useNavigateFromHere } from './useNavigateFromHere.ts';

it('a late answer goes on from where it was asked, and nowhere from elsewhere', async () => {
  const answers: (() => void)[] = [];
  function Form() {
    const navigate = useNavigateFromHere();
    const ask = async () => {
      await new Promise<void>((resolve) => answers.push(resolve));
      navigate('/made');
    };
    return (
      <>
        <button type="button" onClick={() => void ask()}>
          Save
        </button>
        <Link to="/elsewhere">leave</Link>
      </>
    );
  }
  const routes = [
    { path: '/', element: <Form /> },
    { path: '*', element: <Link to="/">back</Link> },
  ];
  const router = createMemoryRouter(routes);
  render(<RouterProvider router={router} />);
  const answered = () => act(async () => answers.pop()!());
  act(() => screen.getByText('Save').click());
  act(() => screen.getByText('leave').click());
  await answered();
  expect(router.state.location.pathname).toBe('/elsewhere');
  act(() => screen.getByText('back').click());
  act(() => screen.getByText('Save').click());
  await answered();
  expect(router.state.location.pathname).toBe('/made');
});
