import type {
  AcknowledgeRequest,
  EntryView,
  JobView,
  NewReadingRequest,
  NewRepairRequest,
  NewTestRequest,
  RunView,
} from '@just-balance/contract';
import { withFinds } from '@just-balance/contract';
import type { NewEntryRequest, NewRunRequest, RunEventsRequest } from '@just-balance/contract/service';
import type { Waiting } from './Outbox.ts';
import { shopNow } from './shopClock.ts';

/** Who wrote what has not gone up yet. */
const HERE = 'this device';

type Own = Pick<JobView, 'readings' | 'tests' | 'cautions' | 'repairs' | 'runs' | 'entries' | 'photos'>;

/** How a write that waits stands in the job already, by what it is written to. */
const TAKES: Readonly<Record<string, (own: Own, body: string, at: string, rest: string[]) => void>> = {
  readings(own, body, at) {
    const r = JSON.parse(body) as NewReadingRequest;
    add(own.readings, {
      id: r.id,
      rev: 1,
      phase: r.phase,
      source: 'hand',
      captureId: null,
      doubtful: null,
      at,
      reading: r.reading as JobView['readings'][number]['reading'],
    });
  },
  cautions(own, body, at) {
    const c = JSON.parse(body) as AcknowledgeRequest;
    own.cautions.push({ caution: c.caution, step: c.step, at, by: HERE });
  },
  tests(own, body, at) {
    const t = JSON.parse(body) as NewTestRequest;
    const test = t.test as JobView['tests'][number]['test'];
    add(own.tests, { id: t.id, rev: 1, at, undone: false, phase: t.phase ?? 'before', by: HERE, test });
  },
  repairs(own, body, at) {
    const { fault = null, part = null, ...r } = JSON.parse(body) as NewRepairRequest;
    add(own.repairs, { rev: 1, at, by: HERE, undone: false, ...r, fault, part });
  },
  runs(own, body, at, [run, events]) {
    if (run === undefined) {
      const { id, procedure } = JSON.parse(body) as NewRunRequest;
      add(own.runs, { id, at, by: HERE, procedure: procedure as RunView['procedure'], events: [] });
    } else if (events === 'events') {
      const more = (JSON.parse(body) as RunEventsRequest).events.map((e) => ({ ...e, by: HERE })) as RunView['events'];
      own.runs = own.runs.map((r) => (r.id === run ? { ...r, events: [...r.events, ...more] } : r));
    }
  },
  entries(own, body, at) {
    const { id, kind, data } = JSON.parse(body) as NewEntryRequest;
    add(own.entries, { id, rev: 1, at, by: HERE, undone: false, kind, data: data as unknown } as EntryView);
  },
};

function add<T extends { id: string }>(list: T[], row: T): void {
  if (!list.some((x) => x.id === row.id)) list.push(row);
}

/** The job as this device knows it: what was entered here and has not gone up yet stands in it already. */
export function withWaiting(job: JobView, waiting: readonly Waiting[]): JobView {
  const mine = waiting.filter((w) => w.jobId === job.id);
  if (mine.length === 0) return job;
  const at = new Date(shopNow()).toISOString();
  const own: Own = {
    readings: [...job.readings],
    tests: [...job.tests],
    cautions: [...job.cautions],
    repairs: [...job.repairs],
    runs: [...job.runs],
    entries: [...job.entries],
    photos: [...job.photos],
  };
  for (const w of mine) {
    const [path = '', query] = w.path.slice(`/jobs/${job.id}/`.length).split('?');
    const [resource = '', ...rest] = path.split('/');
    if (resource === 'photos' && w.method === 'PUT' && typeof w.body !== 'string') {
      const of = new URLSearchParams(query);
      add(own.photos, {
        id: rest[0]!,
        rev: 1,
        at,
        by: HERE,
        undone: false,
        run: of.get('run'),
        step: of.get('step'),
        label: of.get('label') ?? '',
        good: false,
        width: 0,
        height: 0,
        bytes: w.body.byteLength,
      });
    } else if (w.method === 'POST' && typeof w.body === 'string') TAKES[resource]?.(own, w.body, at, rest);
  }
  return { ...job, ...own, tests: withFinds(own.tests, own.runs, own.repairs) };
}
