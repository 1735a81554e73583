/** A file of commands that is brought back, and what is told of it when it was played. */
import type { KeptExchange, PlayedAgain as Played } from '@rawbits/api';
import { cleanup, render, screen } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { PlayedAgain } from './PlayedAgain.tsx';
import { keptFrom } from './PlayFile.tsx';

afterEach(cleanup);

const line = { command: '905A00000300000000', answer: '9100' };
const step = { n: 0, step: { do: 'recognise', application: null }, at: '2026-11-26T10:00:00.000Z', exchange: [line] };
const RUN = {
  run: 'j88f3v8mrye9w31q',
  kind: 'encode',
  plan: { id: 'j25hr7xxs9nq3k9j', name: 'Staff card', version: 1, kind: 'files' },
  steps: [step],
};
const file = (more: object = {}) =>
  JSON.stringify({ schema: 'rawbits/exchange@2', card: '41/201', uid: '04A1B2C3D4E500', runs: [RUN], ...more });
const kept = (more: object = {}): KeptExchange => (keptFrom(file(more)) as { kept: KeptExchange }).kept;
const shown = (more: Partial<Played>, of = kept()) => {
  render(<PlayedAgain kept={of} played={{ played: 61, unseen: 0, differs: null, gap: null, ...more }} />);
  return screen.getByTestId('played-again').textContent!.replace(/\s+/g, ' ');
};

describe('a kept file', () => {
  it.each([
    ['cut', file().slice(0, 90), 'This is no JSON: it is cut, or another file.'],
    ['another', '{"schema":"rawbits/plan@1"}', 'schema: This is no file of commands that Raw Bits kept.'],
    ['of no card', file({ uid: '04' }), 'uid: An identifier has 4, 7 or 8 bytes, in hex.'],
  ])('%s is refused where it is wrong', (_, text, problem) => {
    expect(keptFrom(text)).toEqual({ problem });
  });
});

describe('what is told', () => {
  const differs = { run: 0, step: 4, line: 3, command: 'WriteData', kept: 'done', came: 'not authenticated' };

  it('when all agrees', () => {
    expect(shown({})).toContain('61 commands, every answer the same, byte for byte.');
  });
  it('when some could be held against nothing', () => {
    expect(shown({ unseen: 1 })).toMatch(/no answer differs, byte for byte.*1 answer could be held against nothing/);
  });
  it('when one differs: which, what is kept and what came', () => {
    expect(shown({ differs, played: 9 })).toMatch(
      /command 3 of step 5 is answered otherwise.*WriteData: kept is “done”, the simulated card says “not authenticated”. The 8 before it agree. The keys/,
    );
  });
  it('when the card was gone in between, or a server ended', () => {
    const torn = kept({ runs: [{ ...RUN, steps: [{ ...step, exchange: [{ ...line, answer: '', gone: true }] }] }] });
    expect(shown({ differs, gap: { run: 0, step: 2 } }, torn)).toMatch(
      /a write that is cut short leaves.*Of step 3 no commands were kept, as the server ended then/,
    );
  });
});
