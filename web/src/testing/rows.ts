/** The table that is drawn, as the texts of its cells, row by row without its head. */
import { screen, within } from '@testing-library/react';

export const rows = (): (string | null)[][] =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((row) =>
      within(row)
        .getAllByRole('cell')
        .map(({ textContent }) => textContent),
    );
