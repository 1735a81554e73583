/** A part of a plan sealed with its keys, for a partner. */
import { keyNames, partOf } from '@rawbits/core/plan';
import { SealForm } from '../../../parts/seal/SealForm.tsx';
import type { FilesPlan } from './edit.ts';

export function SealPart({ about, plan, ids }: { about: string; plan: FilesPlan; ids: string[] }) {
  const part = partOf(plan, ids);
  const keys = keyNames(part).map((name) => ({ name, from: plan.keys.find((key) => key.name === name)?.from }));
  return (
    <SealForm
      about={about}
      what="the part"
      summary="Sealed with its keys, for a partner"
      keys={keys}
      content={ids.length > 0 ? JSON.stringify(part) : undefined}
      otherwise="Choose applications above."
    />
  );
}
