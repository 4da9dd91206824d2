import type { StationProps } from '../../job/frame/station.ts';
import { SensorMap } from '../../job/vehicle/SensorMap.tsx';

export function Sensors({ job }: StationProps) {
  return (
    <div className="grid gap-3">
      <p className="m-0 text-soft">
        Decide by the drawing before anything is unplugged; the lead of a sensor leads to its plug.
      </p>
      <SensorMap job={job} />
    </div>
  );
}
