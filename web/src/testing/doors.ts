/** Controllers for tests of what is drawn of them. */
import type { Controller } from '@rawbits/api';

/** A controller that has what it should have. */
export const controller = (name: string, more: Partial<Controller> = {}): Controller => ({
  id: name.toLowerCase().replace(' ', '-'),
  name,
  device: name.toLowerCase().replace(' ', '-'),
  comparesFacility: true,
  wantedFormats: [],
  loadedFormats: [],
  wantedCards: 0,
  loadedCards: 0,
  standing: 'current',
  waiting: [],
  waitingCount: 0,
  waitingMore: false,
  loadedAt: null,
  readers: [],
  load: null,
  answers: true,
  ...more,
});
