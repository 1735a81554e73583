/** What can be done next, in a state of the card, by whoever knows some keys: the step, and the state after it. */
import {
  ALL_FREE,
  type CardState,
  changingSlot,
  type Focus,
  FREEST,
  rightsFor,
  type SlotKey,
  type Step,
  usesOf,
} from './model.ts';

export interface Move {
  step: Step;
  after: CardState;
}
export type Knows = (key: SlotKey) => boolean;

/**
 * The factory's key everybody knows, one's own, too; of the plan's those that are given. What was learnt from a grant is the
 * card's own key alone: where the same key is made for an application, too, that one is another.
 */
export const knowsOf =
  (keys: ReadonlySet<string>, learnt: ReadonlySet<string> = new Set()): Knows =>
  (key) =>
    typeof key === 'string' || keys.has(key.plan) || (key.level === 'card' && learnt.has(key.plan));

export function movesFrom(state: CardState, focus: Focus, knows: Knows): Move[] {
  return [...selecting(state, focus), ...authenticating(state, knows), ...onLevel(state, focus, knows)];
}

function selecting(state: CardState, { application }: Focus): Move[] {
  const moves: Move[] = [
    { step: { do: 'select', application: null }, after: { ...state, level: 'card', session: undefined } },
  ];
  if (application && state.application.standing !== 'gone')
    moves.push({
      step: { do: 'select', application: application.id },
      after: { ...state, level: 'application', session: undefined },
    });
  return moves;
}

function authenticating(state: CardState, knows: Knows): Move[] {
  const keys = state.level === 'card' ? [state.card.key] : state.application.keys;
  return keys.flatMap((key, slot): Move[] =>
    knows(key) ? [{ step: { do: 'authenticate', slot, key }, after: { ...state, session: slot } }] : [],
  );
}

const onLevel = (state: CardState, focus: Focus, knows: Knows): Move[] =>
  state.level === 'card' ? onCard(state, focus) : inApplication(state, focus, knows);

const isMaster = ({ session }: CardState): boolean => session === 0;

/** Whoever is authenticated by any key is told the UID, though the card shows another in each field. */
const learningTheUid = (state: CardState): Move[] =>
  state.session === undefined ? [] : [{ step: { do: 'learn the UID' }, after: state }];

function onCard(state: CardState, { application, plan }: Focus): Move[] {
  const { card } = state;
  const moves = learningTheUid(state);
  const there = application && state.application.standing !== 'gone';
  const without: CardState = {
    ...state,
    application: { ...state.application, standing: 'gone' },
    file: { ...state.file, standing: 'gone' },
  };
  if (isMaster(state) || card.settings.freeDirectory) moves.push({ step: { do: 'list applications' }, after: state });
  if (isMaster(state) && there)
    moves.push({ step: { do: 'delete application', application: application.id }, after: without });
  if (isMaster(state) && !plan.noFormat) moves.push({ step: { do: 'format' }, after: without });
  if (application && !there && (isMaster(state) || card.settings.freeCreate))
    moves.push({
      step: { do: 'create application', application: application.id },
      after: {
        ...state,
        application: {
          standing: 'theirs',
          keys: application.keys.map(() => 'factory' as const),
          settings: FREEST,
          changeKeys: 0,
        },
      },
    });
  // Formatting, the UID, the key of new applications: nothing of it opens what was closed.
  if (isMaster(state)) moves.push({ step: { do: 'set the configuration' }, after: state });
  if (isMaster(state) && card.settings.changeable)
    moves.push({ step: { do: 'open the card’s settings' }, after: { ...state, card: { ...card, settings: FREEST } } });
  if (isMaster(state) && card.settings.masterChangeable)
    moves.push({
      step: { do: 'change key', slot: 0, old: card.key, isCard: true },
      after: { ...state, session: undefined, card: { ...card, key: 'theirs' } },
    });
  return moves;
}

function inApplication(state: CardState, focus: Focus, knows: Knows): Move[] {
  const { application, session } = state;
  const { slot, file } = focus;
  const moves = learningTheUid(state);
  if (isMaster(state) || application.settings.freeDirectory) moves.push({ step: { do: 'list files' }, after: state });
  if (isMaster(state))
    moves.push({
      step: { do: 'delete application', application: focus.application!.id },
      after: {
        ...state,
        level: 'card',
        session: undefined,
        application: { ...application, standing: 'gone' },
        file: { ...state.file, standing: 'gone' },
      },
    });
  if (isMaster(state) && application.settings.changeable)
    moves.push({
      step: { do: 'open the settings' },
      after: { ...state, application: { ...application, settings: FREEST, changeKeys: 0 } },
    });
  if (slot !== undefined && session !== undefined && session === changingSlot(application, slot)) {
    const old = application.keys[slot]!;
    // Another key than one's own is sent combined with the old one, whose checksum must come out: it has to be known.
    if (session === slot || knows(old))
      moves.push({
        step: { do: 'change key', slot, old, isCard: false },
        after: {
          ...state,
          session: session === slot ? undefined : session,
          application: { ...application, keys: application.keys.map((key, i) => (i === slot ? 'theirs' : key)) },
        },
      });
  }
  return file ? [...moves, ...withFile(state, focus)] : moves;
}

function withFile(state: CardState, { file }: Focus): Move[] {
  const { session, file: now, application } = state;
  const planned = file!;
  const { number, kind } = planned;
  const mayCreate = isMaster(state) || application.settings.freeCreate;
  if (now.standing === 'gone')
    return mayCreate
      ? [
          {
            step: { do: 'create file', file: number },
            after: { ...state, file: { standing: 'theirs', rights: ALL_FREE } },
          },
        ]
      : [];
  const held = (rights: readonly unknown[]) =>
    rights.includes('free') || (session !== undefined && rights.includes(session));
  const moves: Move[] = usesOf(planned)
    .filter((use) => held(rightsFor(use, kind, now.rights)))
    .map((use) => ({ step: { do: use, file: number }, after: state }));
  if (mayCreate)
    moves.push({ step: { do: 'delete file', file: number }, after: { ...state, file: { ...now, standing: 'gone' } } });
  if (held([now.rights.change]))
    moves.push({
      step: { do: 'open the rights', file: number },
      after: { ...state, file: { ...now, rights: ALL_FREE } },
    });
  return moves;
}
