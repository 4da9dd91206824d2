import { lazy, Suspense } from 'react';
import type { StationProps } from '../../job/station.ts';

// The procedures and their screens come with the first visit.
const ServiceWork = lazy(async () => ({ default: (await import('./ServiceWork.tsx')).ServiceWork }));

export function ServiceStation(props: StationProps) {
  return (
    <Suspense fallback={<p className="m-0 text-soft">Opening…</p>}>
      <ServiceWork {...props} />
    </Suspense>
  );
}
