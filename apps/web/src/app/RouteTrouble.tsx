import { isRouteErrorResponse, Link, useRouteError } from 'react-router';
import { NextStep } from '../ui/NextStep.tsx';

/** What stands where a page should: the page's code could not be fetched, or it broke. */
export function RouteTrouble() {
  const error = useRouteError();
  const missing = isRouteErrorResponse(error) && error.status === 404;
  return (
    <main className="mx-auto max-w-3xl p-6">
      <NextStep
        tone="trouble"
        title={missing ? 'There is no such page' : 'This page could not be opened'}
        why={
          missing
            ? 'The address leads nowhere.'
            : `What is kept is safe. ${error instanceof Error ? error.message : ''} Loading it again often helps.`
        }
      >
        <button type="button" className="btn" onClick={() => location.reload()}>
          Load it again
        </button>
        <Link to="/" reloadDocument className="btn btn-primary">
          To the board
        </Link>
      </NextStep>
    </main>
  );
}
