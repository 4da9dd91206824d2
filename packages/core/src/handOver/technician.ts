import { complaintLabel, partLabel, pointLabel, type Reading } from '../case/index.ts';
import { faultLabel, sizeFigure, TEST_BY_ID } from '../catalogue/index.ts';
import { findPins, type PinReadings } from '../electrical/index.ts';
import { resultInWords } from '../job/index.ts';
import { MONITORS } from '../obd/index.ts';
import { CAUTIONS, measuredWords, notedSaid, runState, wordSaid } from '../procedures/index.ts';
import { bankTotals, compareFigures, compareTrims, digitsOf, newestOfEach, storyOf } from '../proof/index.ts';
import {
  chanceText,
  figure,
  isSaid,
  joined,
  midSentence,
  numberText,
  type Said,
  said,
  shown,
  signed,
} from '../units/index.ts';
import { trimChartBlock } from './customer.ts';
import { dayOf, momentOf, UTC } from './days.ts';
import type { Draft, DraftBlock } from './document.ts';
import { cleanedForNothing, leftOpen, standing, stillCondemned, torquesOf } from './facts.ts';
import { type HandOverInput, letterheadLines } from './input.ts';
import { labourInWords, partsInWords } from './labour.ts';
import { pictureTitle } from './pictures.ts';
import { pendingOf, remindersOf } from './reminders.ts';

type Job = HandOverInput['job'];
const NO_CAUSES = 5;
const text = (t: Said): DraftBlock => ({ kind: 'text', text: t });
const list = (items: Said[]): DraftBlock[] => (items.length === 0 ? [] : [{ kind: 'list', items }]);
const table = (caption: string, head: Said[], rows: Said[][], right: number[] = []): DraftBlock[] =>
  rows.length === 0 ? [] : [{ kind: 'table', caption, head, rows, right }];

/** For whoever opens the bonnet next: every figure, test, weighing, step, part, minute, and who. */
export function technicianDocument(input: HandOverInput): Draft {
  const { job, shop, clock } = input;
  const { zone } = clock ?? UTC;
  const v = job.vehicle;
  const sections: [string, string, DraftBlock[]][] = [
    ['vehicle', 'Vehicle and complaint', vehicle(input)],
    ['codes', 'Codes and monitors', codes(input)],
    ['readings', 'Readings', readings(input)],
    ['weighing', 'What fits', weighing(job)],
    ['tests', 'Tests', tests(input)],
    ['work', 'Work', work(input)],
    ['proof', 'Proof', proofBlocks(input)],
    ['open', 'Open', open(input)],
    ['pictures', 'Pictures', pictures(job, clock)],
    ['people', 'Who did what', people(job)],
  ];
  return {
    id: 'technician',
    title: `Job record: ${v.label}`,
    letterhead: letterheadLines(shop, input.letterhead),
    plate: v.plate ?? null,
    about: [
      shop,
      `Opened ${momentOf(job.openedAt, clock)} (${zone}) by ${job.openedBy}`,
      ...(job.imported
        ? [
            `From an archive, read in ${momentOf(job.imported.at, clock)} (${zone}) by ${job.imported.by}; names before that are the archive’s`,
          ]
        : []),
      `Job ${job.id}`,
    ],
    sections: sections
      .filter(([, , blocks]) => blocks.length > 0)
      .map(([id, heading, blocks]) => ({ id, heading, blocks })),
  };
}

function vehicle({ job }: HandOverInput): DraftBlock[] {
  const v = job.vehicle;
  const written = (value: number | undefined, unit: string, digits: number): Said =>
    value === undefined ? '' : said`${figure(value, unit, digits)}`;
  const metering = { maf: 'airflow sensor', both: 'airflow and pressure sensor', 'speed-density': 'speed-density' };
  const facts: Said[][] = [
    ['Vehicle', [v.label, v.note, v.year].filter(Boolean).join(', ')],
    [
      'Engine',
      `${v.displacementL} L, ${v.cylinders} cylinders, ${v.banks === 2 ? 'two banks' : 'one bank'}, ${v.fuel}, ${metering[v.metering]}, ${v.induction === 'turbo' ? 'charged' : 'naturally aspirated'}, ${v.injection ?? 'port'} injection`,
    ],
    ['VIN', v.vin ?? ''],
    ['Distance', written(v.odometerKm, 'km', 0)],
    [
      'Surroundings',
      joined([written(job.ambient.baroKPa, 'kPa', 1), written(job.ambient.airC, '°C', 0)].filter(isSaid), ', '),
    ],
    ['Complaint', job.complaint.symptoms.map(complaintLabel).join(', ')],
    ['In their words', job.complaint.story ?? ''],
    ['Noticed by', job.complaint.noticedBy ?? ''],
    ['Other lamps', job.complaint.otherLamps ?? ''],
    [
      'Touched before',
      (job.complaint.recentWork ?? [])
        .map((w) => `${partLabel(w.part)}${w.days === undefined ? '' : `, ${w.days} days before`}`)
        .join('; '),
    ],
    ...standing<{ quantity: string; value: number; unit: string; source: string }>(job, 'value').map((e) => [
      e.quantity,
      said`${figure(e.value, e.unit)} (${e.source})`,
    ]),
  ];
  return table(
    'Vehicle and complaint',
    ['', ''],
    facts.filter(([, value]) => isSaid(value)),
  );
}

function codes({ job, clock }: HandOverInput): DraftBlock[] {
  const rows = job.records.map((r) => [
    r.phase,
    momentOf(r.at, clock),
    r.codes.length === 0 ? 'none' : r.codes.map((c) => `${c.code} ${c.state}`).join(', '),
    r.lampOn ? 'on' : 'off',
    (r.monitors?.monitors ?? [])
      .filter((m) => m.state === 'incomplete')
      .map((m) => MONITORS[m.id])
      .join(', ') || (r.monitors ? 'all complete' : 'not read'),
  ]);
  const frozen = job.records.find((r) => r.freezeFrame.length > 0)?.freezeFrame ?? [];
  return [
    ...table('Codes and monitors', ['Phase', 'Read', 'Codes', 'Lamp', 'Monitors open'], rows),
    ...table(
      'Freeze frame',
      ['Freeze frame', 'Value'],
      frozen.map((f) => [f.name, `${f.value} ${f.unit}`.trim()]),
    ),
  ];
}

/** Both banks as a tool would show them. */
function trims(r: Reading, which: 'stft' | 'ltft'): string {
  return (['bank1', 'bank2'] as const)
    .flatMap((b) => {
      const t = r.trims?.[b]?.[which];
      return t === undefined ? [] : [signed(t)];
    })
    .join(' / ');
}

function readings({ job, units, clock }: HandOverInput): DraftBlock[] {
  // The unit stands in the head of the column.
  const bare = (v: number | undefined, unit: string, digits: number) => {
    if (v === undefined) return '';
    const s = shown(v, unit, digits, units);
    return numberText(s.value, s.digits);
  };
  const unit = (u: string) => shown(0, u, 0, units).unit;
  const rows = job.readings.map(({ phase, at, source, doubtful, reading: r }) => [
    `${phase}, ${pointLabel(r.at)}`,
    momentOf(at, clock),
    bare(r.rpm, 'rpm', 0),
    bare(r.mafGps, 'g/s', 2),
    bare(r.mapKPa, 'kPa', 1),
    [bare(r.ectC, '°C', 0), bare(r.iatC, '°C', 0)].filter(Boolean).join(' / '),
    trims(r, 'stft'),
    trims(r, 'ltft'),
    bankTotals(r)
      .map((t) => signed(t.totalPct))
      .join(' / '),
    [source, doubtful].filter(Boolean).join('; '),
  ]);
  return table(
    'Readings',
    [
      'Reading',
      'Taken',
      'rpm',
      `Airflow ${unit('g/s')}`,
      `Manifold ${unit('kPa')}`,
      `Coolant / intake ${unit('°C')}`,
      'Short %',
      'Long %',
      'Total %',
      'From',
    ],
    rows,
    [2, 3, 4, 5, 6, 7, 8],
  );
}

function weighing(job: Job): DraftBlock[] {
  const d = job.diagnoses.at(-1)?.output;
  if (!d) return [text('Not weighed.')];
  const size = (c: (typeof d.causes)[number]): Said => {
    if (!c.severity) return '';
    const { unit, value, low, high } = c.severity;
    return said`${sizeFigure(c.fault, unit, value)} (${sizeFigure(c.fault, unit, [low, high])})`;
  };
  const leading = d.causes.slice(0, NO_CAUSES);
  return [
    text(
      `Mixture: ${d.mixture.replaceAll('-', ' ')}${d.banks.length > 0 ? `, bank ${d.banks.join(' and ')} off` : ''}.`,
    ),
    ...table(
      'What fits',
      ['Cause', 'Chance', 'Size (with its interval)'],
      leading.map((c) => [
        `${faultLabel(c.fault)}${c.bank ? `, bank ${c.bank}` : ''}`,
        chanceText(c.probability),
        size(c),
      ]),
      [1],
    ),
    ...list([
      ...(leading[0]?.because ?? []).map((b) => said`For ${midSentence(faultLabel(leading[0]!.fault))}: ${b}`),
      ...(leading[0]?.against ?? []).map((b) => said`Against it: ${b}`),
      ...d.pairs.map(
        (p) =>
          `Two at once, ${chanceText(p.probability)}: ${p.faults.map((f) => midSentence(faultLabel(f))).join(' and ')}.`,
      ),
      ...d.cannotTellApart.map(
        (g) => `The readings do not tell apart: ${g.map((f) => midSentence(faultLabel(f))).join(', ')}.`,
      ),
      ...d.warnings,
    ]),
  ];
}

function tests({ job, clock }: HandOverInput): DraftBlock[] {
  return table(
    'Tests',
    ['Test', 'Showed', 'When', 'By'],
    job.tests
      .filter((t) => !t.undone)
      .map((t) => [
        TEST_BY_ID.get(t.test.id)?.label ?? t.test.id,
        resultInWords(t.test),
        `${momentOf(t.at, clock)}, ${t.phase === 'after' ? 'after the repair' : 'as it came in'}`,
        t.by,
      ]),
  );
}

/** Whole minutes from the first to the last thing that happened in a run, waiting included. */
function minutesOf(s: ReturnType<typeof runState>): string {
  return s.startedMs === null || s.lastMs === null
    ? ''
    : String(Math.max(1, Math.round((s.lastMs - s.startedMs) / 60_000)));
}

function work(input: HandOverInput): DraftBlock[] {
  const { job, clock } = input;
  const costs = [labourInWords(input), partsInWords(input)].flatMap((x) => x ?? []);
  const runs = job.runs.map((r) => {
    const s = runState(r.procedure, r.events);
    const people = [...new Set(r.events.map((e) => e.by))].join(', ');
    const figures = [...s.results].flatMap(([step, x]) => {
      const what = r.procedure.steps.find((p) => p.id === step);
      return x.value === null || !what ? [] : [measuredWords(what, x.value, x.limits)];
    });
    return [
      r.procedure.title,
      { running: 'under way', parked: 'parked', ended: 'done', 'given-up': 'given up' }[s.status],
      minutesOf(s),
      String(r.procedure.minutes),
      joined(
        [
          ...figures,
          ...(s.stopped ? [`stopped: ${s.stopped.if}`] : []),
          ...(s.givenUp ? [s.givenUp.reason] : []),
          ...s.settled.map(
            (x) =>
              said`${x.by} took back what ${x.dropped.by} said, ${wordSaid(r.procedure, x.step, x.dropped)}: ${x.reason}`,
          ),
          ...s.noted.map((n) => notedSaid(r.procedure, n)),
        ],
        '; ',
      ),
      people,
    ];
  });
  const parts = standing<{
    name: string;
    number?: string;
    supersededBy?: string;
    make: string;
    supplier?: string;
    oldKept: boolean;
    substitute?: string;
  }>(job, 'part').map((p) => [
    p.name,
    [p.number, p.supersededBy && `superseded by ${p.supersededBy}`].filter(Boolean).join(', '),
    p.make,
    [p.supplier, p.substitute && `in place of it: ${p.substitute}`, p.oldKept ? 'old part kept' : '']
      .filter(Boolean)
      .join('; '),
  ]);
  return [
    ...table(
      'Repairs',
      ['Repair', 'For', 'When', 'By'],
      job.repairs
        .filter((r) => !r.undone)
        .map((r) => [
          // What says the work says the part.
          [r.text, r.work ? '' : r.part].filter(Boolean).join(', '),
          r.fault && !r.guessed ? faultLabel(r.fault) : '',
          momentOf(r.at, clock),
          r.by,
        ]),
    ),
    ...table('Procedures', ['Procedure', 'State', 'Minutes, with waiting', 'Advised', 'Found', 'By'], runs, [2, 3]),
    ...table('Parts', ['Part', 'Number', 'Make', 'Note'], parts),
    ...table(
      'Tightened',
      ['Work', 'Part', 'To', 'Where the figure comes from'],
      torquesOf(job).map(({ work, part, nm, source }) => [work, part, said`${figure(nm, 'N·m', 1)}`, source]),
    ),
    ...pinsOf(job),
    ...cleanedForNothing(job).map((p) => text(`Cleaned; it did not help: ${p}.`)),
    ...costs.map(text),
  ];
}

/** Each connector that was read, pin by pin. */
function pinsOf(job: HandOverInput['job']): DraftBlock[] {
  return standing<PinReadings & { connector: string }>(job, 'pins').flatMap((e) => {
    const { connector, pins: names, readings, running, batteryV = 0 } = e;
    const { pins, warnings } = findPins({ pins: names, readings, running, ...(batteryV > 0 ? { batteryV } : {}) });
    const of = `Pins of ${connector || 'a connector'}`;
    return [
      // On paper a table has no heading of its own.
      text(`${of}:`),
      ...table(
        of,
        ['Pin', 'Volts', 'It is', 'Because'],
        pins.map((p) => [p.pin, p.volts === null ? '' : said`${figure(p.volts, 'V', 2)}`, p.role, p.because]),
        [1],
      ),
      ...warnings.map(text),
    ];
  });
}

function proofBlocks({ job, proof, limits, units }: HandOverInput): DraftBlock[] {
  const story = storyOf(job);
  const before = newestOfEach(story.before).map((r) => r.reading);
  const after = newestOfEach(story.after).map((r) => r.reading);
  const changes = compareTrims(before.flatMap(bankTotals), after.flatMap(bankTotals), limits.watchPct);
  const figures = compareFigures(before, after, job.vehicle.limits);
  if (!proof) return [text('The points have not been read again.')];
  return [
    text(said`${proof.title}. ${proof.why}`),
    ...trimChartBlock(job, limits),
    ...table(
      'Before and after',
      ['Figure', 'Before', 'After', 'Change'],
      [
        ...changes.map((c) => [
          `Total trim, ${pointLabel(c.at)}${job.vehicle.banks === 2 ? `, bank ${c.bank}` : ''}, %`,
          signed(c.beforePct),
          signed(c.afterPct),
          `${signed(c.changePct)} ± ${c.uncertaintyPct.toFixed(1)}`,
        ]),
        ...figures.map((f) => {
          const of = (v: number) => shown(v, f.unit, digitsOf(f), units);
          const { digits, unit, value: zero } = of(0);
          const size = (v: number) => Math.abs(of(v).value - zero).toFixed(digits);
          return [
            [
              f.quantity,
              pointLabel(f.at),
              ...(f.bank !== null && job.vehicle.banks === 2 ? [`bank ${f.bank}`] : []),
              ...(unit ? [unit] : []),
            ].join(', '),
            of(f.before).value.toFixed(digits),
            of(f.after).value.toFixed(digits),
            f.changed
              ? `${f.after < f.before ? '−' : '+'}${size(f.after - f.before)}`
              : `smaller than ±${size(f.uncertainty)}`,
          ];
        }),
      ],
      [1, 2, 3],
    ),
  ];
}

function open({ job, clock }: HandOverInput): DraftBlock[] {
  const pending = pendingOf(job);
  const items = [
    ...stillCondemned(job).map((f) => `Condemned and not replaced: ${midSentence(faultLabel(f))}.`),
    ...leftOpen(job),
    ...(pending ? [pending.text] : []),
    ...remindersOf(job).map((r) => `${dayOf(r.dueAt, clock)}: ${r.what}`),
  ];
  return items.length === 0 ? [text('Nothing.')] : list(items);
}

function pictures(job: Job, clock: HandOverInput['clock']): DraftBlock[] {
  const photos = job.photos.filter((p) => !p.undone).map((p) => ({ id: p.id, label: pictureTitle(job, p, clock) }));
  return photos.length === 0 ? [] : [{ kind: 'photos', photos }];
}

function people(job: Job): DraftBlock[] {
  const acts = new Map<string, string[]>();
  const did = (by: string, what: string) => acts.set(by, [...(acts.get(by) ?? []), what]);
  did(job.openedBy, 'opened the job');
  for (const t of job.tests) if (!t.undone) did(t.by, `tested: ${TEST_BY_ID.get(t.test.id)?.label ?? t.test.id}`);
  for (const r of job.repairs) if (!r.undone) did(r.by, `repaired: ${r.text}`);
  for (const r of job.runs)
    for (const by of new Set(r.events.map((e) => e.by))) did(by, `worked on: ${r.procedure.title}`);
  for (const c of job.cautions)
    did(
      c.by,
      `acknowledged: ${
        CAUTIONS.find((x) => x.id === c.caution)
          ?.text.split(':')[0]
          ?.toLowerCase() ?? c.caution
      }`,
    );
  return table(
    'Who did what',
    ['Person', 'Did'],
    [...acts].map(([by, list]) => [by, [...new Set(list)].join('; ')]),
  );
}
