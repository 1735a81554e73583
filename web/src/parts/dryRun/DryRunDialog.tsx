/** A dry run over the page, where what it is begun from has no room for it. */
import { type ComponentProps, useEffect, useRef } from 'react';
import { DryRunPanel } from './DryRunPanel.tsx';

export function DryRunDialog(props: ComponentProps<typeof DryRunPanel>) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current!.showModal(), []);
  return (
    <dialog
      ref={dialog}
      onClose={props.onClose}
      aria-label="Dry run"
      className="m-auto max-h-[90vh] w-[min(68rem,95vw)] overflow-auto backdrop:bg-base-content/40"
    >
      <DryRunPanel {...props} />
    </dialog>
  );
}
