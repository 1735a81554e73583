/** Any error that can be shown: a failure of ours, or what a broken request left. */
export interface Told {
  message?: string;
  hint?: string;
}

/** An error in words: what is wrong, where, and what to do. */
export function FailureNote({ failure, id }: { failure: Told | undefined | null; id?: string }) {
  if (!failure) return null;
  return (
    <p role="alert" id={id} className="text-signal">
      <strong>{failure.message}</strong> {failure.hint}
    </p>
  );
}
