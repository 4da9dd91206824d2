import type { RecordingView } from '@just-balance/contract';
import { counted, numberText } from '@just-balance/core/units';
import { Dropdown } from '../ui/Dropdown.tsx';

export function ExportMenu({
  jobId,
  captureId,
  onTheBus,
}: {
  jobId: string;
  captureId: string;
  onTheBus: RecordingView['onTheBus'];
}) {
  const at = `/api/jobs/${jobId}/captures/${captureId}/export`;
  const files = [
    ['csv', 'CSV', 'the figures as they are'],
    ['csv&safe=1', 'CSV for a spreadsheet', 'cells that would be taken for a formula get an apostrophe'],
    ['candump', 'CAN log', busInWords(onTheBus)],
    ['json', 'Capture', 'for this program'],
  ];
  return (
    <Dropdown button="btn btn-lg" label="Export">
      <ul className="dropdown-content menu card z-30 mt-2 w-72 text-base shadow-lg">
        {files.map(([as, label, why]) => (
          <li key={as}>
            <a className="block text-ink no-underline" href={`${at}?as=${as}`} download>
              <span className="font-[650]">{label}</span>
              <span className="block text-[0.87rem] text-soft">{why}</span>
            </a>
          </li>
        ))}
      </ul>
    </Dropdown>
  );
}

/** What a log of this recording is: what was on the bus, or what follows from the figures. */
function busInWords(bus: RecordingView['onTheBus']): string {
  if (!bus) return 'as an engine would have answered; what belongs together only where it is of one moment';
  const lost = bus.lost > 0 ? `; ${numberText(bus.lost)} more were not kept` : '';
  return `what was on the bus: ${counted(bus.frames, 'frame')}${lost}`;
}
