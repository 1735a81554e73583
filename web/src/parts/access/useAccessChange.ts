/** A change of who may pass: reviewed, shown where it does anything, and saved as it was seen. */
import type { AccessChange, AccessReview } from '@rawbits/api';
import { useCallback, useState } from 'react';
import {
  useReviewAccessMutation,
  useSaveAccessMutation,
  useSaveMembersMutation,
} from '../../platform/endpoints/access.ts';
import { useSite } from '../../platform/site/useSite.ts';

export interface Proposed {
  change: AccessChange;
  review: AccessReview;
}

export interface AccessChanging {
  proposed: Proposed | undefined;
  error: object | undefined;
  busy: boolean;
  propose(change: AccessChange): Promise<void>;
  confirm(breaking: boolean): Promise<void>;
  cancel(): void;
}

const isAboutMembers = (change: AccessChange): change is Extract<AccessChange, { kind: 'members' | 'card' }> =>
  change.kind === 'members' || change.kind === 'card';

export const doesNothing = ({ gains, losses, breaks }: AccessReview): boolean =>
  gains.length + losses.length + breaks.length === 0;

/** `onSaved` is told the id of what was made or changed, where there is one; a change that `undoes` somebody's is shown in any case. */
export function useAccessChange(onSaved: (id: string | null) => void = () => {}, undoes = false): AccessChanging {
  const { id: site } = useSite();
  const [review, reviewing] = useReviewAccessMutation();
  const [saveRights, savingRights] = useSaveAccessMutation();
  const [saveMembers, savingMembers] = useSaveMembersMutation();
  const [proposed, setProposed] = useState<Proposed>();
  const save = useCallback(
    async ({ change, review: { seen } }: Proposed, breaking: boolean) => {
      const saved = isAboutMembers(change)
        ? await saveMembers({ site, change, seen, breaking })
        : await saveRights({ site, change, seen, breaking });
      if (saved.error) return;
      setProposed(undefined);
      onSaved(saved.data && 'id' in saved.data ? (saved.data.id as string | null) : null);
    },
    [saveMembers, saveRights, site, onSaved],
  );
  return {
    proposed,
    error: (savingRights.error ?? savingMembers.error ?? reviewing.error) as object | undefined,
    busy: reviewing.isLoading || savingRights.isLoading || savingMembers.isLoading,
    propose: async (change) => {
      savingRights.reset();
      savingMembers.reset();
      const { data } = await review({ site, change });
      if (!data) return;
      const next = { change, review: data };
      if (doesNothing(data) && !undoes) await save(next, false);
      else setProposed(next);
    },
    confirm: async (breaking) => {
      if (proposed) await save(proposed, breaking);
    },
    cancel: () => {
      savingRights.reset();
      savingMembers.reset();
      setProposed(undefined);
    },
  };
}
