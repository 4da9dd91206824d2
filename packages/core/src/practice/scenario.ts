import { FAULT_BY_ID } from '../catalogue/index.ts';
import { DRIVE_PROCEDURES } from '../readiness/index.ts';
import { PRACTICE_LEVELS, type PracticeLevel } from './levels.ts';

/** `just-balance/practice`, version 1: a simulated car with something wrong and what its driver says. */
export interface PracticeScenario {
  format: 'just-balance/practice';
  version: 1;
  id: string;
  title: string;
  level: PracticeLevel;
  /** A car of the simulated fleet. */
  vehicle: string;
  faults: { id: string; severity: number; bank?: 1 | 2 }[];
  baroKPa: number;
  airC: number;
  seed: number;
  complaint: { story: string; symptoms: string[]; recentWork?: { part: string; days?: number }[] };
  /** Of the level `drive`: the road script that was driven, and the procedure that it was meant to follow. */
  drive?: { script: string; procedure: string };
  /** What is right to do about it. */
  remedy: 'clean' | 'replace' | 'repair' | 'nothing';
  source: string;
}

/** What is wrong with a scenario from a file; empty where it can be played. `cars`: the simulated fleet. */
export function scenarioProblems(json: unknown, cars: readonly string[]): { field: string; message: string }[] {
  const out: { field: string; message: string }[] = [];
  const bad = (field: string, message: string) => out.push({ field, message });
  if (json === null || typeof json !== 'object' || Array.isArray(json)) return [{ field: '', message: 'an object' }];
  const s = json as Partial<Record<keyof PracticeScenario, unknown>>;
  if (s.format !== 'just-balance/practice') bad('format', 'must be "just-balance/practice"');
  if (s.version !== 1) bad('version', `must be 1${Number(s.version) > 1 ? ': update this program' : ''}`);
  const text = (field: 'id' | 'title' | 'source', most: number) => {
    const v = s[field];
    if (typeof v !== 'string' || v.trim() === '' || v.length > most) bad(field, `a text of 1 to ${most} characters`);
  };
  text('id', 60);
  text('title', 120);
  text('source', 200);
  if (!(PRACTICE_LEVELS as readonly unknown[]).includes(s.level)) bad('level', `one of ${PRACTICE_LEVELS.join(', ')}`);
  if (!cars.includes(s.vehicle as string)) bad('vehicle', `one of ${cars.join(', ')}`);
  const number = (field: 'baroKPa' | 'airC' | 'seed', low: number, high: number) => {
    const v = s[field];
    if (typeof v !== 'number' || !(v >= low && v <= high)) bad(field, `a number, ${low} to ${high}`);
  };
  number('baroKPa', 60, 110);
  number('airC', -40, 50);
  number('seed', 0, 1e9);
  const faults = s.faults;
  if (!Array.isArray(faults) || faults.length > 2) bad('faults', 'a list of at most two');
  else
    for (const [i, f] of (faults as unknown[]).entries()) {
      const { id, severity, bank } = (f ?? {}) as { id?: unknown; severity?: unknown; bank?: unknown };
      if (typeof id !== 'string' || !FAULT_BY_ID.has(id)) bad(`faults[${i}].id`, 'a fault of the catalogue');
      if (typeof severity !== 'number' || !Number.isFinite(severity)) bad(`faults[${i}].severity`, 'a number');
      if (bank !== undefined && bank !== 1 && bank !== 2) bad(`faults[${i}].bank`, '1 or 2');
    }
  const c = s.complaint as Partial<PracticeScenario['complaint']> | undefined;
  if (typeof c?.story !== 'string' || c.story.length > 2000)
    bad('complaint.story', 'a text of at most 2,000 characters');
  if (!Array.isArray(c?.symptoms) || c.symptoms.length > 20) bad('complaint.symptoms', 'a list');
  const drive = s.drive as Partial<Record<'script' | 'procedure', unknown>> | null | undefined;
  if (s.level === 'drive') {
    if (typeof drive?.script !== 'string' || !/^[a-z0-9-]{1,60}$/.test(drive.script))
      bad('drive.script', 'the road script that was driven');
    if (!DRIVE_PROCEDURES.some((p) => p.id === drive?.procedure))
      bad('drive.procedure', `one of ${DRIVE_PROCEDURES.map((p) => p.id).join(', ')}`);
  } else if (drive !== undefined) bad('drive', 'only of the level "drive"');
  if (!['clean', 'replace', 'repair', 'nothing'].includes(s.remedy as string))
    bad('remedy', 'clean, replace, repair or nothing');
  return out;
}
