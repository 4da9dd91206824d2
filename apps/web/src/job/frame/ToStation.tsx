import type { StationId } from '@just-balance/core/standing';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';

/** On to another station of this job: a link, as it goes somewhere and changes nothing. */
export function ToStation({ station, children }: { station: StationId; children: ReactNode }) {
  const { jobId } = useParams();
  return (
    <Link to={`/jobs/${jobId}/${station}`} className="btn btn-primary btn-lg no-underline">
      {children}
    </Link>
  );
}
