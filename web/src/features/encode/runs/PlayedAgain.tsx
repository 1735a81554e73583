/** A kept exchange played on a simulated card: whether it answers as the card did, and if not, where. */
import type { KeptExchange, PlayedAgain as Played } from '@rawbits/api';

const counted = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;

const wasGone = ({ runs }: KeptExchange) =>
  runs.some(({ steps }) => steps.some(({ exchange }) => exchange?.some(({ gone }) => gone)));

export function PlayedAgain({ kept, played }: { kept: KeptExchange; played: Played }) {
  const { differs, gap, unseen } = played;
  const stepOf = ({ run, step }: { run: number; step: number }) =>
    `step ${step + 1}${kept.runs.length > 1 ? ` of run ${run + 1} (${kept.runs[run]?.kind})` : ''}`;
  return (
    <div role="status" data-testid="played-again" className="border-l-8 border-l-secondary bg-base-200 p-2">
      <p>
        Played on a simulated card, from the blank on, with the keys of the store:{' '}
        {differs ? (
          <strong className="text-signal">
            command {differs.line} of {stepOf(differs)} is answered otherwise.
          </strong>
        ) : (
          <strong className="text-primary">
            {counted(played.played, 'command')}, {unseen === 0 ? 'every answer the same' : 'no answer differs'}, byte
            for byte.
          </strong>
        )}
      </p>
      {differs && (
        <p>
          {differs.command}: kept is “{differs.kept}”, the simulated card says “{differs.came}”. The {played.played - 1}{' '}
          before it agree.{' '}
          {wasGone(kept)
            ? 'The card was gone in the middle of a command: a write that is cut short leaves what nobody can foretell.'
            : 'The keys of the store are not those of then, the card was no blank, or the file was changed.'}
        </p>
      )}
      {unseen > 0 && (
        <p className="text-ink-2">
          {counted(unseen, 'answer')} could be held against nothing: kept without it, since it would show a key, or
          never given, since the card was gone.
        </p>
      )}
      {gap && <p>Of {stepOf(gap)} no commands were kept, as the server ended then: that may be why.</p>}
    </div>
  );
}
