import type { Model, ModelStatic } from 'sequelize';
import { isGroup } from '../common/group.ts';
import { Capture } from '../rows/captures.ts';
import { Job, JobEvent, StoredDiagnosisRow } from '../rows/jobs.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { ServiceEntry, ServiceEvent, ServiceRun } from '../rows/service.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';

/** What takes the place of a person's words; it fits wherever words may stand. */
export const ERASED = 'erased on request';

type Json = unknown;

/**
 * Every column that may hold words by which a customer is known, and what becomes of it. `typed`: fields, at any depth,
 * whose text a person typed freely: it goes whole. In everything else only the customer's own words go (plate, VIN,
 * names), so that figures, findings, parts and causes stay. A test holds this list against the columns that exist.
 */
export interface PersonalColumn {
  model: ModelStatic<Model>;
  column: string;
  typed: readonly string[];
  /** Fields that go with what they say. */
  without?: readonly string[];
}

export const PERSONAL: readonly PersonalColumn[] = [
  { model: Vehicle, column: 'data', typed: [], without: ['plate', 'vin', 'note'] },
  { model: Job, column: 'complaint', typed: ['story'], without: ['noticedBy', 'otherLamps'] },
  { model: Job, column: 'ambient', typed: [] },
  { model: VehicleRecord, column: 'data', typed: [], without: ['vin'] },
  { model: ReadingRow, column: 'data', typed: [] },
  { model: ReadingRow, column: 'doubtful', typed: [] },
  { model: TestRow, column: 'data', typed: [] },
  { model: Repair, column: 'data', typed: ['text'] },
  { model: KnownFigureRow, column: 'data', typed: ['source'] },
  { model: KnownFigureRow, column: 'family', typed: [] },
  { model: StoredDiagnosisRow, column: 'input', typed: [] },
  { model: StoredDiagnosisRow, column: 'output', typed: [] },
  { model: StoredDiagnosisRow, column: 'settings', typed: ['source'] },
  { model: Capture, column: 'name', typed: ['name'] },
  { model: Capture, column: 'meta', typed: [] },
  { model: ServiceRun, column: 'data', typed: [] },
  {
    model: ServiceEvent,
    column: 'data',
    typed: ['note', 'detail', 'reason', 'torqueSource', 'whose', 'toOrder', 'part', 'what', 'where', 'next'],
  },
  { model: ServiceEntry, column: 'data', typed: ['note', 'source', 'substitute', 'what', 'road', 'reason', 'text'] },
  {
    model: JobEvent,
    column: 'data',
    typed: [
      'text',
      'note',
      'detail',
      'reason',
      'source',
      'name',
      'label',
      'substitute',
      'what',
      'where',
      'next',
      'road',
      'before',
      'after',
    ],
  },
];

/** The events of a job whose `source` is one of ours: how a reading came, not what somebody typed. */
const OUR_SOURCES = new Set(['link', 'hand', 'import', 'recording', 'capture']);

/** The words that a customer is known by: plates in any spelling, VINs, and the names in what is typed of them. */
export function wordsOf(
  { plates, vins, notes }: Record<'plates' | 'vins' | 'notes', readonly string[]>,
  noticedBy: readonly string[],
): RegExp[] {
  const escaped = (t: string) => t.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  const edge = (body: string) => new RegExp(`(?<![\\p{L}\\p{N}])${body}(?![\\p{L}\\p{N}])`, 'giu');
  const bare = plates.map((p) => p.replace(/[^\p{L}\p{N}]/gu, '')).filter((p) => p.length >= 2);
  // Of who noticed it every word, of a note those that begin large; short ones say nothing.
  const names = [
    ...noticedBy.flatMap((t) => t.match(/\p{L}{3,}/gu) ?? []),
    ...notes.flatMap((t) => t.match(/\p{Lu}\p{L}{2,}/gu) ?? []),
  ];
  return [
    ...[...new Set(bare)].map((p) => edge([...p].map(escaped).join('[^\\p{L}\\p{N}"]{0,2}'))),
    ...[...new Set([...vins, ...names])].map((n) => edge(escaped(n))),
  ];
}

export function saysAny(text: string, words: readonly RegExp[]): boolean {
  return words.some((w) => {
    w.lastIndex = 0;
    return w.test(text);
  });
}

const scrubbed = (text: string, words: readonly RegExp[]) => words.reduce((t, w) => t.replace(w, 'erased'), text);

/** A value without a customer's words. The same value where there was none of them. */
export function erased(
  value: Json,
  { typed, without = [] }: Pick<PersonalColumn, 'typed' | 'without'>,
  words: readonly RegExp[],
): Json {
  if (typeof value === 'string') return scrubbed(value, words);
  if (Array.isArray(value)) return value.map((v) => erased(v, { typed }, words));
  if (!isGroup(value)) return value;
  const out: Record<string, Json> = {};
  for (const [key, v] of Object.entries(value)) {
    if (without.includes(key)) continue;
    const ours = key === 'source' && OUR_SOURCES.has(String(v));
    out[key] = typed.includes(key) && !ours ? blank(v) : erased(v, { typed }, words);
  }
  return out;
}

/** All that was typed in it, whatever its form; figures stay. */
function blank(v: Json): Json {
  if (typeof v === 'string') return ERASED;
  if (Array.isArray(v)) return v.map(blank);
  if (isGroup(v)) return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, blank(x)]));
  return v;
}
