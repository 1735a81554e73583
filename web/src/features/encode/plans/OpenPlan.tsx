/** A plan being looked at or changed: its drawing or table, what is chosen in it, and reach beside it. */
import type { ChipPlan, OnePlan } from '@rawbits/api';
import { keyNamesOf, problemsOf } from '@rawbits/core/plan';
import { useEffect, useMemo, useState } from 'react';
import { type Chosen, FloorPlan } from '../../../parts/floorPlan/FloorPlan.tsx';
import { litBy } from '../../../parts/floorPlan/geometry.ts';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { ReachPanel } from '../reach/ReachPanel.tsx';
import { useReach } from '../reach/useReach.ts';
import { changed, type Edit, withKeysTold } from './edit.ts';
import { Inspector } from './Inspector.tsx';
import { KeysOfPlan } from './KeysOfPlan.tsx';
import { PlanJson } from './PlanJson.tsx';
import { Problems } from './Problems.tsx';
import { RightsTable } from './RightsTable.tsx';
import { SavePlan } from './SavePlan.tsx';
import { SectorTable } from './SectorTable.tsx';
import { TagForm } from './TagForm.tsx';
import { Versions } from './Versions.tsx';

const VIEWS = [
  ['floor', 'Floor plan'],
  ['rights', 'Rights'],
  ['json', 'JSON'],
  ['versions', 'Versions'],
] as const;
type View = (typeof VIEWS)[number][0];
const FLOOR_WORDS: Record<ChipPlan['kind'], string> = { files: 'Floor plan', sectors: 'Sectors', tag: 'Blocks' };
const WALK_MS = 450;

interface Props {
  saved?: OnePlan;
  base: ChipPlan;
  onSaved: (id: string) => void;
}

export function OpenPlan({ saved, base, onSaved }: Props) {
  const { id: site, may } = useSite();
  const about = saved?.id ?? `${site} new ${base.kind}`;
  const [draft, setDraft] = useDraft<{ basedOn: number; plan: ChipPlan }>('plans', about);
  const plan = draft?.plan ?? base;
  const [view, setView] = useState<View>('floor');
  const [chosen, setChosen] = useState<Chosen>();
  const [keys, setKeys] = useState<string[]>([]);
  const [walked, setWalked] = useState<number>();
  const names = useMemo(() => keyNamesOf(plan), [plan]);
  const held = keys.filter((key) => names.includes(key));
  const { answer, busy, play } = useReach(plan, held);
  const lit = useMemo(() => litBy(answer?.abilities ?? []), [answer]);
  const problems = useMemo(() => problemsOf(plan), [plan]);
  const mayChange = may('encode cards');
  const set = (next: ChipPlan) => setDraft({ basedOn: draft?.basedOn ?? saved?.current ?? 0, plan: next });
  const edit: Edit | undefined = mayChange
    ? (change) => plan.kind === 'files' && set(withKeysTold(changed(plan, change)))
    : undefined;
  const show = (one: Chosen) => {
    setChosen(one);
    setView('floor');
  };
  const walk = () => {
    setView('floor');
    setWalked(0);
  };
  const longest = Math.max(0, ...[...lit.values()].flatMap((one) => Object.values(one)));
  useWalk(walked, longest, setWalked);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,22rem)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
      <div className="flex min-h-0 flex-col gap-2 overflow-auto">
        <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
          <h2 className="text-[1.15rem]">{plan.name}</h2>
          <nav aria-label="Views of the plan" className="flex gap-x-2">
            {VIEWS.filter(
              ([name]) => (name !== 'versions' || saved) && (name !== 'rights' || plan.kind === 'files'),
            ).map(([name, words]) => (
              <button
                key={name}
                type="button"
                className="switch-link"
                aria-pressed={view === name}
                onClick={() => setView(name)}
              >
                {name === 'floor' ? FLOOR_WORDS[plan.kind] : words}
              </button>
            ))}
          </nav>
        </div>
        <SavePlan
          about={about}
          saved={saved}
          draft={draft}
          plan={plan}
          onSaved={onSaved}
          onForget={() => setDraft(undefined)}
        />
        {saved && <KeysOfPlan saved={saved} />}
        {view === 'floor' && plan.kind === 'files' && (
          <>
            <FloorPlan plan={plan} height={250} chosen={chosen} onChoose={setChosen} lit={lit} walked={walked} />
            <Problems problems={problems} plan={plan} onChoose={setChosen} />
            <Inspector plan={plan} chosen={chosen} onChoose={setChosen} edit={edit} names={names} />
          </>
        )}
        {view === 'floor' && plan.kind === 'sectors' && (
          <>
            <Problems problems={problems} plan={plan} onChoose={setChosen} />
            <SectorTable plan={plan} onChange={mayChange ? set : undefined} />
          </>
        )}
        {view === 'floor' && plan.kind === 'tag' && (
          <>
            <Problems problems={problems} plan={plan} onChoose={setChosen} />
            <TagForm plan={plan} onChange={mayChange ? set : undefined} />
          </>
        )}
        {view === 'rights' && plan.kind === 'files' && <RightsTable plan={plan} onChoose={show} />}
        {view === 'json' && <PlanJson about={about} plan={plan} onChange={mayChange ? set : undefined} />}
        {view === 'versions' && saved && <Versions saved={saved} />}
      </div>
      <ReachPanel
        plan={plan}
        names={names}
        keys={held}
        onKeys={setKeys}
        answer={answer}
        busy={busy}
        play={play}
        onWalk={walk}
        onChange={mayChange ? (assertions) => set({ ...plan, assertions }) : undefined}
      />
    </div>
  );
}

/** Rooms light up in the order of the commands that open them. */
function useWalk(walked: number | undefined, longest: number, set: (walked: number | undefined) => void): void {
  useEffect(() => {
    if (walked === undefined) return undefined;
    const timer = setTimeout(() => set(walked >= longest ? undefined : walked + 1), WALK_MS);
    return () => clearTimeout(timer);
  }, [walked, longest, set]);
}
