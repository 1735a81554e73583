/** Taking a card back: everything that a plan put on it goes, and it has the factory's key, so that it is a blank again. */
import { fail } from '../../failure/index.ts';
import { CardRefusal, type FilesHost } from '../../host/index.ts';
import type { Plan } from '../schema/index.ts';
import type { CardStep } from './bring.ts';
import { factoryKey, settingsByte, settingsIn } from './keys.ts';
import { Level } from './level.ts';
import { type Ring, slotKeys } from './ring.ts';

export interface Freeing {
  plan: Plan;
  ring: Ring;
  before?(step: CardStep): Promise<void> | void;
}

/** As a card is sold: everything free and changeable. */
const AS_SOLD = settingsByte({ masterChangeable: true, freeDirectory: true, freeCreate: true, changeable: true });

/**
 * Frees a card: deletes the applications of the plan, or all of them, and puts the factory's key in place of the card's. What
 * was torn is begun anew and finishes. Gives what stays: settings and a UID drawn anew that nothing takes back.
 */
export async function freeCard(
  host: FilesHost,
  { plan, ring, before }: Freeing,
  all = true,
): Promise<{ steps: CardStep[]; stays: string[] }> {
  const steps: CardStep[] = [];
  const stays: string[] = [];
  const level = new Level(host, 'the card', [slotKeys(ring, null, plan.card.keyKind, [plan.card.key])], () => {});
  const act = async (step: CardStep, work: () => Promise<void>) => {
    await before?.(step);
    await work();
    steps.push(step);
  };
  await host.select();
  await level.mustEnter(0);
  const ours = new Set(plan.applications.map(({ id }) => Number.parseInt(id, 16)));
  for (const id of await host.applications())
    if (all || ours.has(id))
      await act(
        {
          do: 'delete application',
          application: id.toString(16).toUpperCase().padStart(6, '0'),
          loses: 'all its files',
        },
        () => host.deleteApplication(id),
      );
  const [byte] = await host.keySettings();
  const now = settingsIn(byte!);
  if ((byte! & 15) !== (AS_SOLD & 15)) {
    if (now.changeable)
      await act({ do: 'set the settings', application: null }, () => host.changeKeySettings(AS_SOLD & 15));
    else stays.push('The settings of the card can never be changed again.');
  }
  const there = (await level.keyIn(0))!;
  const blank = factoryKey(there.kind);
  if (there.bytes.some((bits) => bits !== 0)) {
    if (!now.changeable && !now.masterChangeable)
      fail('frozen', 'The card master key can never be changed again.', { field: 'card' }, 'The card stays as it is.');
    try {
      await act({ do: 'change key', application: null, slot: 0 }, () => host.changeKey(0, blank, undefined, true));
    } catch (error) {
      if (!(error instanceof CardRefusal)) throw error;
      stays.push('The card keeps its master key.');
    }
  }
  if (plan.randomUid) stays.push('The card draws its UID anew for good.');
  if (plan.noFormat) stays.push('The card cannot be formatted.');
  return { steps, stays };
}
