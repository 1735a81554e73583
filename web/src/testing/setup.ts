/**
 * Runs before every file of tests of components, which share one DOM and one load of all modules: after each test the page
 * is empty again, and nothing is kept, stubbed or spied on.
 */
import { cleanup, configure } from '@testing-library/react';
import { afterEach, vi } from 'vitest';
import { meetAgain } from '../platform/drafts/store.ts';

// Nothing that comes sooner waits for it; a busy machine may take long.
configure({ asyncUtilTimeout: 30_000 });

afterEach(() => {
  cleanup();
  localStorage.clear();
  sessionStorage.clear();
  meetAgain();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});
