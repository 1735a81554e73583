import { Command } from 'cmdk';
import { useCallback, useLayoutEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useControllersQuery, useLoadMutation } from '../platform/endpoints/doors.ts';
import { useFormatsQuery } from '../platform/endpoints/formats.ts';
import { useSessionQuery } from '../platform/endpoints/session.ts';
import {
  commandsShown,
  helpShown,
  rigToggled,
  shortcutsShown,
  singleKeysToggled,
  themeToggled,
} from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';
import { Found } from './Found.tsx';
import { OTHER_SCREENS, SCREENS } from './screens.ts';

const ITEM = 'cursor-pointer px-3 py-1.5 data-[selected=true]:bg-chosen';

/** Sides of screens that somebody may look for by name. */
const SIDES = [
  ['stock/people', 'Cardholders'],
  ['doors/passing', 'Who may pass, door by door'],
  ['doors/groups', 'Access groups'],
  ['doors/schedules', 'Schedules and holidays'],
] as const;

export function Commands() {
  const dialog = useRef<HTMLDialogElement>(null);
  // Before the next key can be typed: what is typed must not reach the screen below.
  useLayoutEffect(() => {
    dialog.current?.showModal();
    dialog.current?.querySelector('input')?.focus();
  }, []);
  const [text, setText] = useState('');
  const [selected, setSelected] = useState('');
  const list = useRef<HTMLDivElement>(null);
  // What comes in above what was chosen before is chosen, and seen.
  const showFirst = useCallback((value: string) => {
    setSelected(value);
    requestAnimationFrame(() => list.current?.scrollTo?.({ top: 0 }));
  }, []);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { id, may } = useSite();
  const { data: formats } = useFormatsQuery(id);
  const { data: session } = useSessionQuery();
  const { data: controllers } = useControllersQuery(id);
  const [load] = useLoadMutation();
  const close = () => dispatch(commandsShown(false));
  const run = (action: () => void) => () => {
    close();
    action();
  };
  const go = (path: string) => run(() => void navigate(path));
  return (
    <dialog
      ref={dialog}
      aria-label="Command list"
      onClose={close}
      className="panel mx-auto mt-[12vh] w-full max-w-xl text-base-content backdrop:bg-black/40"
    >
      <Command label="Command list" value={selected} onValueChange={setSelected}>
        <Command.Input
          value={text}
          onValueChange={setText}
          placeholder="Go to, open, switch; a person, a card, a format, a code, a door …"
          aria-label="Command"
          className="w-full border-b border-base-300 bg-base-100 px-3 py-2.5 outline-none"
        />
        <Command.List ref={list} className="max-h-80 overflow-auto py-1">
          <Command.Empty className="px-3 py-2 text-ink-2">Nothing is called that.</Command.Empty>
          <Found text={text} className={ITEM} go={go} onFirst={showFirst} />
          {SCREENS.map(({ path, name, about }) => (
            <Command.Item key={path} onSelect={go(`/${id}/${path}`)} className={ITEM}>
              Go to {name} <span className="text-ink-2">{about}</span>
            </Command.Item>
          ))}
          {OTHER_SCREENS.filter((s) => may(s.needs)).map(({ path, name }) => (
            <Command.Item key={path} onSelect={go(`/${id}/${path}`)} className={ITEM}>
              Go to {name}
            </Command.Item>
          ))}
          {SIDES.map(([path, words]) => (
            <Command.Item key={path} onSelect={go(`/${id}/${path}`)} className={ITEM}>
              {words}
            </Command.Item>
          ))}
          {may('keep cards') && (
            <>
              <Command.Item onSelect={go(`/${id}/stock?issue=latest`)} className={ITEM}>
                Issue a card from the latest read
              </Command.Item>
              <Command.Item onSelect={go(`/${id}/stock?issue=new`)} className={ITEM}>
                Issue a card by hand
              </Command.Item>
              <Command.Item onSelect={go(`/${id}/stock/boxes?enter=`)} className={ITEM}>
                Enter a box of cards
              </Command.Item>
              <Command.Item onSelect={go(`/${id}/stock/people/new`)} className={ITEM}>
                Add a cardholder
              </Command.Item>
            </>
          )}
          {may('load doors') &&
            controllers?.map((controller) => (
              <Command.Item
                key={controller.id}
                value={`load ${controller.name}`}
                onSelect={run(() => {
                  void load({ site: id, id: controller.id });
                  void navigate(`/${id}/doors?controller=${controller.id}`);
                })}
                className={ITEM}
              >
                Load {controller.name} <span className="text-ink-2">{controller.standing}</span>
              </Command.Item>
            ))}
          <Command.Item onSelect={run(() => dispatch(helpShown('')))} className={ITEM}>
            Help for this screen
          </Command.Item>
          <Command.Item onSelect={run(() => dispatch(rigToggled()))} className={ITEM}>
            Open or close the rig
          </Command.Item>
          <Command.Item
            onSelect={run(() => document.querySelector<HTMLInputElement>('#intake')?.focus())}
            className={ITEM}
          >
            Type or paste a read
          </Command.Item>
          <Command.Item onSelect={run(() => dispatch(themeToggled()))} className={ITEM}>
            Switch between light and dark theme
          </Command.Item>
          <Command.Item onSelect={run(() => dispatch(singleKeysToggled()))} className={ITEM}>
            Switch single-key shortcuts on or off
          </Command.Item>
          <Command.Item onSelect={run(() => dispatch(shortcutsShown(true)))} className={ITEM}>
            Show the shortcuts
          </Command.Item>
          {session?.sites
            .filter((s) => s.id !== id)
            .map((s) => (
              <Command.Item key={s.id} onSelect={go(`/${s.id}/read`)} className={ITEM}>
                Work at {s.name}
              </Command.Item>
            ))}
          {formats?.map(({ format }) => (
            <Command.Item
              key={format.id}
              value={`format ${format.id} ${format.name}`}
              onSelect={go(`/${id}/formats/${format.id}`)}
              className={ITEM}
            >
              Format {format.name}
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </dialog>
  );
}
