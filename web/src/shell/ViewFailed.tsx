/** What stands in place of a view that could not be drawn: plain words, and ways on. */
import { Link, useParams, useRouteError } from 'react-router';
import { CopyButton } from '../parts/copy/CopyButton.tsx';

export function ViewFailed() {
  const error = useRouteError();
  const { site } = useParams();
  const details = error instanceof Error ? `${error.name}: ${error.message}\n${error.stack ?? ''}` : String(error);
  return (
    <section role="alert" className="grid max-w-2xl gap-3 p-8" data-testid="view-failed">
      <h1>This view could not be shown</h1>
      <p>
        Something in it is not as Raw Bits expects. Nothing that was saved is lost, and the other screens work: choose
        one at the left. If it comes again, tell whoever looks after Raw Bits, with the details.
      </p>
      <p className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary" onClick={() => window.location.reload()}>
          Try again
        </button>
        {site && (
          <Link className="btn btn-line" to={`/${site}/read`}>
            Go to Read
          </Link>
        )}
        <span className="text-ink-2">
          Copy the details <CopyButton text={details} what="the details of what went wrong" />
        </span>
      </p>
    </section>
  );
}
