/** The encoder's pad in the rig: cards are laid on it, and what the one on it says of itself stands below. */
import { useDroppable } from '@dnd-kit/core';
import type { PadState, TrayCard } from '@rawbits/api';
import { usePadQuery, useTearFromPadMutation } from '../../platform/endpoints/rig.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { tagLines } from '../../platform/words/tag.ts';

/** What a card is dropped on. */
export const PAD = 'pad of the rig';

/** What the card on the pad says of itself, line by line. */
function aboutOf({ found }: PadState): [string, string][] {
  if (!found) return [];
  if (found.kind === 'unknown') return [['UID', found.uid]];
  if (found.kind === 'sectors') return [['UID', found.uid]];
  if (found.kind === 'tag') return tagLines(found);
  const { uid, uidIsRandom, ats, bytesFree, applications } = found;
  return [
    [uidIsRandom ? 'UID, another each time' : 'UID', uid],
    ['ATS', ats],
    ['free', bytesFree === null ? 'it does not say' : `${bytesFree} bytes`],
    [
      'applications',
      applications === null ? 'listed with its key only' : applications.length === 0 ? 'none' : applications.join(', '),
    ],
  ];
}

const titleOf = ({ found }: PadState): string => {
  if (found?.kind === 'files')
    return found.generation ? `File-system card, generation ${found.generation}` : 'File-system card';
  if (found?.kind === 'sectors') return `Sector card, ${found.size}`;
  if (found?.kind === 'tag') return 'Rewritable tag';
  return found ? 'A card of another kind' : '';
};

/** The pad as one sentence, for a screen reader. */
export const padInWords = (pad: PadState): string =>
  pad.problem || [`Pad: ${titleOf(pad) || 'empty'}`, ...aboutOf(pad).map((line) => line.join(' '))].join('. ');

interface Props {
  cards: TrayCard[];
  chosen: TrayCard | undefined;
  disabled: boolean;
  failure: Told | undefined;
  onLay: (cards: (TrayCard | undefined)[]) => void;
}

/** Commands that a card takes before it is torn away: it is in the middle of being written then. */
const TORN_AFTER = 30;

export function PadTarget({ cards, chosen, disabled, failure, onLay }: Props) {
  const { id: site } = useSite();
  const { data: pad } = usePadQuery(site);
  const [tear, torn] = useTearFromPadMutation();
  const { setNodeRef, isOver } = useDroppable({ id: PAD });
  const lying = (pad?.cards ?? []).flatMap((id) => cards.filter((card) => card.id === id));
  const lay = (laid: (TrayCard | undefined)[]) => {
    torn.reset();
    onLay(laid);
  };
  const isLying = chosen !== undefined && lying.some(({ id }) => id === chosen.id);
  return (
    <div ref={setNodeRef} className={`border bg-base-100 ${isOver ? 'border-primary bg-chosen' : 'border-base-300'}`}>
      <button
        type="button"
        onClick={() => lay([chosen])}
        disabled={disabled || !chosen}
        data-pad
        className="flex w-full cursor-pointer items-center gap-2 px-2 py-1.5 text-left hover:bg-chosen disabled:cursor-not-allowed"
      >
        <kbd className="kbd">0</kbd>
        <span className="font-bold">Encoder pad</span>
      </button>
      <p className="px-2 pb-1 text-[0.9rem]">
        {torn.isSuccess ? (
          <span role="status">The next card is torn away while it is written.</span>
        ) : (
          <button
            type="button"
            className="min-h-[24px] cursor-pointer text-ink-2 underline"
            disabled={disabled}
            title="To see what becomes of a card that is taken away too soon"
            onClick={() => void tear({ site, at: 'during', after: TORN_AFTER })}
          >
            tear the next one away
          </button>
        )}
      </p>
      <FailureNote failure={failure} />
      {pad && lying.length > 0 && (
        <div data-testid="pad" className="grid gap-1 border-t border-faint px-2 py-1 text-[0.9rem]">
          <p>
            <span className="text-ink-2">on it: </span>
            {lying.map(({ printed, look }) => printed || look).join(' and ')}
          </p>
          {pad.problem && <p className="font-bold text-signal">{pad.problem}</p>}
          {pad.found && <p className="font-bold text-primary">{titleOf(pad)}</p>}
          <dl className="grid grid-cols-[auto_1fr] gap-x-2">
            {aboutOf(pad).map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-ink-2">{name}</dt>
                <dd className={name.startsWith('UID') || name === 'ATS' ? 'font-mono' : ''}>{value}</dd>
              </div>
            ))}
          </dl>
          <p className="flex gap-3">
            <button type="button" className="cursor-pointer underline" onClick={() => lay([])}>
              take off
            </button>
            {lying.length === 1 && !isLying && (
              <button type="button" className="cursor-pointer underline" onClick={() => lay([...lying, chosen])}>
                lay the chosen one beside it
              </button>
            )}
          </p>
        </div>
      )}
    </div>
  );
}
