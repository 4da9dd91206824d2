import type { AskRequest, AttemptView, PracticeDrive } from '@just-balance/contract';
import { PRACTICE_POINTS } from '@just-balance/contract';
import type { Case, OperatingPoint, Reading, TestResult } from '@just-balance/core/case';
import { pointLabel } from '@just-balance/core/case';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { type Diagnosis, diagnose, type NextTest } from '@just-balance/core/diagnosis';
import { resultInWords } from '@just-balance/core/job';
import type { MonitorId } from '@just-balance/core/obd';
import type { PracticeScenario } from '@just-balance/core/practice';
import { readingInWords } from '@just-balance/core/proof';
import { type CarState, driveProcedure, reviewDrive } from '@just-balance/core/readiness';
import { joined } from '@just-balance/core/units';

import { BadRequestException, Injectable } from '@nestjs/common';
import { badFields } from '../common/errors.ts';
import type { AttemptData } from '../rows/practice.ts';
import { SimControl } from './simControl.ts';

/** Minutes that a reading costs, hands on. [house] */
export const READING_MINUTES: Readonly<Record<string, number>> = { idle: 3, 'hold-2500': 3, 'road-load': 12 };
const MOST_TESTS = 8;

/** A drive is the same every time: worked out once for so many of them. [house] */
const MOST_DRIVES = 40;
/** Where the clock of a drive stands is nobody's: its soak is counted back from here. */
const KEY_ON = '2026-01-01T08:00:00Z';

type Driven = Omit<PracticeDrive, 'procedure' | 'review'>;
type Answered = { outcome?: string; values?: Record<string, number | string>; bank?: 1 | 2 };

/** The cars of practice: asked, driven and played to the best end, each a car of its own in the simulated vehicle. */
@Injectable()
export class Examiner {
  constructor(private readonly sim: SimControl) {}

  /** Asked of the simulated vehicle once. */
  private tests: string[] = [];
  async testsOf(): Promise<string[]> {
    if (this.tests.length === 0) this.tests = (await this.sim.bays())[0]?.tests ?? [];
    return this.tests;
  }

  /** What the car shows, with its minutes; the same question again is another look. */
  async shown({ scenario, moves }: AttemptData, body: AskRequest, known: Case) {
    if (body.kind === 'reading') {
      if (!(PRACTICE_POINTS as readonly string[]).includes(body.what))
        throw badFields([{ field: 'what', message: `one of ${PRACTICE_POINTS.join(', ')}` }]);
      const row = (await this.examine(scenario, { reading: body.what })) as Reading;
      return { minutes: READING_MINUTES[body.what]!, showed: readingInWords(row), row, test: null };
    }
    const t = TEST_BY_ID.get(body.what);
    const fit = t && !t.reading && (await this.testsOf()).includes(t.id);
    if (!t || !fit) throw badFields([{ field: 'what', message: 'a test that this car can be asked' }]);
    const turn = moves.filter((m) => m.what === body.what).length;
    const banks = t.perBank && known.vehicle.banks === 2 ? (body.bank ? [body.bank] : ([1, 2] as const)) : [1 as const];
    const test: TestResult[] = [];
    for (const bank of banks) {
      const r = (await this.examine(scenario, { test: body.what, turn, bank })) as Answered;
      test.push({
        id: body.what,
        ...(r.outcome ? { outcome: r.outcome } : {}),
        ...(r.values ? { values: r.values } : {}),
        ...(r.bank ? { bank: r.bank } : {}),
      });
    }
    const showed = joined(test.map(resultInWords), '; ');
    return { minutes: t.minutes, showed, row: null, test };
  }

  private readonly drives = new Map<string, Promise<Driven>>();
  driven(scenario: PracticeScenario): Promise<Driven> {
    const { vehicle, drive, seed } = scenario;
    const key = `${vehicle} ${drive!.script} ${seed}`;
    const known = this.drives.get(key);
    if (known) return known;
    const log = this.asked(scenario, 'drive', { script: drive!.script }) as Promise<Driven>;
    if (this.drives.size >= MOST_DRIVES) this.drives.clear();
    this.drives.set(key, log);
    log.catch(() => this.drives.delete(key));
    return log;
  }

  /** A drive with its procedure; what broke it only where that may be told. */
  async driveOf(scenario: PracticeScenario, over: boolean): Promise<PracticeDrive> {
    const procedure = driveProcedure(scenario.drive!.procedure)!;
    const log = await this.driven(scenario);
    if (!over) return { ...log, procedure, review: null };
    const { soakHours, fuelPct, airC, altitudeM } = log.before;
    const first = (id: string) => log.channels.find((c) => c.id === id)?.values[0];
    const [coolantC, intakeC] = [first('ect'), first('iat')];
    const car: CarState = {
      startedAt: KEY_ON,
      lamp: 'off',
      codes: [],
      incomplete: log.open.before,
      ...(soakHours === null
        ? {}
        : { engineOffSince: new Date(Date.parse(KEY_ON) - soakHours * 3_600_000).toISOString() }),
      ...(fuelPct === null ? {} : { fuelPct }),
      ...(airC === null ? {} : { ambientC: airC }),
      ...(altitudeM === null ? {} : { altitudeM }),
      ...(coolantC === undefined ? {} : { coolantC }),
      ...(intakeC === undefined ? {} : { intakeC }),
    };
    const time = Float64Array.from(log.time);
    const channels = log.channels.map((c) => ({
      id: c.id,
      unit: c.unit,
      time,
      value: Float64Array.from(c.values),
    }));
    const review = reviewDrive(procedure, { startedAt: KEY_ON, channels, marks: [] }, car);
    // What the log does not carry stands beside it here: the monitors are read.
    const monitors = { before: review.monitors.before, after: log.open.after as MonitorId[] };
    return { ...log, procedure, review: { ...review, monitors, warnings: [] } };
  }

  /** Idle and the hold, then always the best next test, answered by the same car. */
  async bestPath(scenario: PracticeScenario, known: Case) {
    const c: Case = { ...known, readings: [], tests: [] };
    const steps: NonNullable<AttemptView['bestPath']> = [];
    let minutes = 0;
    const read = async (at: string) => {
      const r = (await this.examine(scenario, { reading: at })) as Reading;
      c.readings = [...(c.readings ?? []), r];
      minutes += READING_MINUTES[at]!;
      steps.push({ what: pointLabel(at as OperatingPoint), minutes: READING_MINUTES[at]!, showed: readingInWords(r) });
    };
    await read('idle');
    await read('hold-2500');
    const possible = new Set(await this.testsOf());
    const right = (d: Diagnosis) => {
      const truth = scenario.faults.map((f) => f.id);
      return truth.length === 0 ? d.causes[0]!.fault === 'balanced' : truth.includes(d.causes[0]!.fault);
    };
    for (let i = 0; ; i++) {
      const d = diagnose(c);
      // As the product itself would go: a cause that stands alone is confirmed before a part is touched.
      const { standing } = d;
      const can = (t: NextTest) => possible.has(t.test) || t.test === 'road-load';
      const next =
        'test' in standing && standing.is === 'confirm'
          ? d.nextTests.find((t) => t.test === standing.test && can(t))
          : d.nextTests.find(can);
      if (standing.is === 'sure' || i === MOST_TESTS || !next) return { steps, minutes, arrived: right(d) };
      if (next.test === 'road-load') {
        await read('road-load');
        continue;
      }
      const r = (await this.examine(scenario, {
        test: next.test,
        turn: c.tests!.filter((x) => x.id === next.test).length,
        bank: next.bank ?? 1,
      })) as Answered;
      const t: TestResult = {
        id: next.test,
        ...(r.outcome ? { outcome: r.outcome } : {}),
        ...(r.values ? { values: r.values } : {}),
        ...(r.bank ? { bank: r.bank } : {}),
      };
      c.tests = [...(c.tests ?? []), t];
      minutes += next.minutes;
      steps.push({
        what: TEST_BY_ID.get(next.test)!.label,
        minutes: next.minutes,
        showed: resultInWords(t),
      });
    }
  }

  examine(s: PracticeScenario, ask: object): Promise<unknown> {
    return this.asked(s, 'examine', { ask });
  }

  /** Ask the simulated vehicle about a car of its own. */
  private async asked(s: PracticeScenario, command: 'examine' | 'drive', more: object): Promise<unknown> {
    const { vehicle, faults, baroKPa, airC, seed } = s;
    try {
      return (await this.sim.send({ do: command, car: { vehicle, faults, baroKPa, airC, seed }, ...more })).result;
    } catch (e) {
      if (e instanceof Error && e.constructor.name === 'BayRefusal')
        throw new BadRequestException({ statusCode: 400, message: e.message });
      throw e;
    }
  }
}
