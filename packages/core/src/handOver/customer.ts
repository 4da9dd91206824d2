import { complaintLabel, pointLabel } from '../case/index.ts';
import { faultLabel } from '../catalogue/index.ts';
import { MONITORS } from '../obd/index.ts';
import { openAtEnd, orderIsOpen, runState } from '../procedures/index.ts';
import { bankTotals, newestOfEach, type ProofVerdict, phaseNow, storyOf } from '../proof/index.ts';
import { msOf } from '../time/index.ts';
import type { TrimLimits } from '../trims/index.ts';
import { chanceText, midSentence, type Said } from '../units/index.ts';
import { CUSTOMER_WORDS } from './customerWords.ts';
import { dayOf } from './days.ts';
import type { Draft, DraftBlock, TrimChartRow } from './document.ts';
import { cleanedForNothing, openMonitors, repairedFaults, standing, stillCondemned } from './facts.ts';
import { type HandOverInput, letterheadLines } from './input.ts';
import { pendingOf, remindersOf } from './reminders.ts';

/** From this chance on a cause that was not repaired is told as the likely one. [house] */
const LIKELY = 0.5;

/** What the verdict means to somebody who has never seen a trim. Own wording [house]. */
const PROOF_WORDS: Readonly<Record<ProofVerdict, string>> = {
  'nothing to compare': 'The same measurements have not been taken again yet, so the repair is not shown to work.',
  settling: 'The engine is still adjusting itself to the repair; it is measured again once it has.',
  'points missing':
    'What we have measured again is back where it should be; not everything that was off has been measured again yet.',
  proven: 'We took the same measurements after the repair as before it: they are back where they should be.',
  'balanced, a part condemned':
    'The measurements are back where they should be today, but a part that we found damaged is still fitted.',
  'better, still outside': 'The measurements are better than before, but not yet where they should be.',
  'a second fault shows': 'The measurements are better, and they show that something else is wrong as well.',
  'smaller than the readings can show': 'The measurements have not changed by more than they vary anyway.',
  worse: 'The measurements are worse than before: please do not take this as finished.',
  maintained: 'The measurements were in order before and are in order now.',
};

/** For whoever drives the car: plain words, no figure that needs explaining. */
export function customerDocument({ job, shop, letterhead, proof, limits, clock }: HandOverInput): Draft {
  const v = job.vehicle;
  return {
    id: 'customer',
    title: 'What we found and did',
    letterhead: letterheadLines(shop, letterhead),
    plate: v.plate ?? null,
    about: [
      shop,
      [v.label, v.note, v.year].filter(Boolean).join(', '),
      `In our shop since ${dayOf(job.openedAt, clock)}, looked after by ${job.openedBy}`,
    ],
    sections: (
      [
        ['complaint', 'What you told us', told(job)],
        ['wrong', 'What was wrong', wrong(job, proof)],
        ['measured', 'Before and after', measured(job, limits)],
        ['done', 'What we did', done(job)],
        ['proof', 'How we know that it worked', [text(proof ? PROOF_WORDS[proof.verdict] : notProven(job))]],
        ['open', 'What is still open', stillOpen(job, proof)],
        ['watch', 'What to watch for, and when to come back', watch(job, clock)],
      ] satisfies [string, string, DraftBlock[]][]
    ).map(([id, heading, blocks]) => ({ id, heading, blocks })),
  };
}

const text = (t: Said): DraftBlock => ({ kind: 'text', text: t });
const list = (items: Said[]): DraftBlock[] => (items.length === 0 ? [] : [{ kind: 'list', items }]);

/** Verdicts after which what was repaired may be told as what was wrong. */
const SHOWS_CAUSE: ReadonlySet<ProofVerdict> = new Set([
  'proven',
  'balanced, a part condemned',
  'a second fault shows',
]);

type Job = HandOverInput['job'];

/** An engine in order, where that does not say that its mixture is: without trims, and on a diesel, which has none. */
const IN_ORDER: Readonly<Record<string, string>> = {
  undetermined: 'What has been looked at so far shows nothing wrong; the mixture itself has not been measured.',
  'not-applicable': 'What has been looked at so far shows nothing wrong.',
};

/** Whether anything was read of the engine or tested on it. */
const lookedAt = (job: Job) => job.readings.length > 0 || job.tests.some((t) => !t.undone);

function told(job: Job): DraftBlock[] {
  const symptoms = job.complaint.symptoms.filter((s) => s !== 'none').map((s) => midSentence(complaintLabel(s)));
  const story = job.complaint.story?.trim();
  if (!story && symptoms.length === 0)
    return [text('You asked us to look the car over; you had noticed nothing wrong.')];
  return [
    ...(story ? [{ kind: 'text' as const, text: `“${story}”` }] : []),
    ...(symptoms.length > 0 ? [text(`We wrote down: ${symptoms.join(', ')}.`)] : []),
  ];
}

function wrong(job: Job, proof: HandOverInput['proof']): DraftBlock[] {
  const repaired = repairedFaults(job);
  const shown = proof !== null && SHOWS_CAUSE.has(proof.verdict);
  // What is not proven is not said as found: a repair may have met something else, or nothing.
  const out = repaired.map((f) => {
    const plain = CUSTOMER_WORDS[f]?.wrong ?? `${faultLabel(f)}.`;
    return text(
      shown
        ? plain
        : `We took it to be this, and worked on it: ${midSentence(plain)} That it was so is not proven yet.`,
    );
  });
  const worked = phaseNow(job) === 'after';
  const first = job.diagnoses.at(-1)?.output.causes[0];
  if (out.length === 0 && first) {
    const plain = CUSTOMER_WORDS[first.fault]?.wrong ?? faultLabel(first.fault);
    // It is said of the mixture: what is read has to be so, however many causes are left.
    if (first.fault === 'balanced') out.push(text(IN_ORDER[job.diagnoses.at(-1)!.output.mixture] ?? plain));
    else if (first.probability >= LIKELY)
      out.push(
        text(
          worked
            ? `Before the work the measurements fitted this best: ${midSentence(plain)} Whether the work was for it is not written down.`
            : `Most likely: ${midSentence(plain)} It has not been repaired yet.`,
        ),
      );
    else
      out.push(
        text(
          'The measurements fit several causes and do not tell them apart yet. We would rather test further than guess.',
        ),
      );
  }
  if (out.length === 0)
    out.push(
      text(
        lookedAt(job)
          ? 'What has been measured and tested so far does not tell a cause.'
          : 'We have not measured the engine yet.',
      ),
    );
  if (proof?.verdict === 'a second fault shows' && proof.remains[0])
    out.push(
      text(
        `Behind it something else shows. It fits this best (${chanceText(proof.remains[0].probability)}): ${midSentence(CUSTOMER_WORDS[proof.remains[0].fault]?.wrong ?? faultLabel(proof.remains[0].fault))}`,
      ),
    );
  return out;
}

/** Before and after by operating point, for the trim chart of both documents. */
export function trimChartRows(job: Job): TrimChartRow[] {
  const story = storyOf(job);
  const after = newestOfEach(story.after);
  const totals = (r: { reading: Parameters<typeof bankTotals>[0] } | undefined) =>
    r ? bankTotals(r.reading).map((t) => ({ bank: t.bank, totalPct: t.totalPct })) : [];
  return newestOfEach(story.before).flatMap((b) => {
    const before = totals(b);
    return before.length === 0
      ? []
      : [
          {
            label: pointLabel(b.reading.at),
            before,
            after: totals(after.find((a) => a.reading.at === b.reading.at)),
          },
        ];
  });
}

export function trimChartBlock(job: Job, limits: TrimLimits): DraftBlock[] {
  const rows = trimChartRows(job);
  return rows.length === 0
    ? []
    : [
        {
          kind: 'trimChart',
          caption: 'Fuel that the engine adds or takes away by itself, in percent, before and after',
          banks: job.vehicle.banks ?? 1,
          watchPct: limits.watchPct,
          actPct: limits.actPct,
          rows,
        },
      ];
}

function measured(job: Job, limits: TrimLimits): DraftBlock[] {
  const rows = trimChartRows(job);
  const chart = trimChartBlock(job, limits);
  if (rows.length === 0)
    return [
      text(
        job.vehicle.fuel === 'diesel'
          ? 'A diesel is judged by its air and its pressures; the figures stand in the pages for the next technician.'
          : 'There is nothing to show yet.',
      ),
    ];
  const worst = (list: { bank: 1 | 2; totalPct: number }[]) =>
    list.reduce((w, t) => (Math.abs(t.totalPct) > Math.abs(w.totalPct) ? t : w), list[0]!);
  const widest = rows.reduce((w, r) =>
    Math.abs(worst(r.before).totalPct) > Math.abs(worst(w.before).totalPct) ? r : w,
  );
  const then = worst(widest.before);
  const now = widest.after.find((t) => t.bank === then.bank);
  const pct = (v: number) => `${Math.abs(v).toFixed(0)} % of fuel`;
  const itDoes = (v: number) =>
    Math.round(v) === 0 ? 'it needs no correction' : `it ${v > 0 ? 'adds' : 'takes away'} ${pct(v)}`;
  const had =
    Math.round(then.totalPct) === 0
      ? 'needed no correction'
      : `had to ${then.totalPct >= 0 ? 'add' : 'take away'} ${pct(then.totalPct)}`;
  const again = now ? `now ${itDoes(now.totalPct)}` : 'it has not been measured again yet';
  return [
    text(
      `An engine corrects its own mixture. Up to ${limits.watchPct} % either way is usual. ${widest.label}: yours ${phaseNow(job) === 'after' ? `${had} before the repair; ${again}` : had}.`,
    ),
    ...chart,
  ];
}

function done(job: Job): DraftBlock[] {
  const standingRepairs = job.repairs.filter((r) => !r.undone);
  const repairs = standingRepairs.map((r) => ({ atMs: msOf(r.at), text: r.text }));
  const runs = job.runs.flatMap((r) => {
    const { ended, stopped } = runState(r.procedure, r.events);
    // What became a repair is told as that.
    if (!ended || standingRepairs.some((x) => x.run === r.id || x.text.startsWith(r.procedure.title))) return [];
    const why = stopped ? `: begun, and stopped because ${midSentence(stopped.if)}` : '';
    return [{ atMs: ended.atMs, text: `${r.procedure.title}${why}` }];
  });
  const parts = standing<{ name: string; number?: string; make: string }>(job, 'part').map((p) => ({
    atMs: msOf(p.at),
    text: `New part: ${p.name}${p.number ? `, number ${p.number}` : ''}${p.make === 'original' ? ', original' : p.make === 'copy' ? ', not from the maker of the car' : p.make === 'used' ? ', used' : ''}`,
  }));
  const all = [
    ...[...repairs, ...runs, ...parts].sort((a, b) => a.atMs - b.atMs).map((x) => x.text),
    ...cleanedForNothing(job).map((p) => `Cleaning the ${p} did not help.`),
  ];
  return all.length === 0
    ? [text(lookedAt(job) ? 'We measured and tested. Nothing has been repaired yet.' : 'Nothing has been done yet.')]
    : [{ kind: 'list', items: all }];
}

function notProven(job: Job): string {
  return phaseNow(job) === 'after'
    ? PROOF_WORDS['nothing to compare']
    : 'Nothing has been repaired yet, so there is nothing to prove.';
}

const LEFT = {
  off: 'still off the car:',
  missing: 'not all of it went back on:',
  'in there': 'still in the engine bay:',
} as const;

/** Verdicts that leave nothing of the repair to be shown. */
const SETTLED: ReadonlySet<ProofVerdict> = new Set(['proven', 'maintained']);

function stillOpen(job: Job, proof: HandOverInput['proof']): DraftBlock[] {
  const condemned = stillCondemned(job).map(
    (f) => `A part was found damaged and is still fitted: ${midSentence(faultLabel(f))}.`,
  );
  const runs = job.runs.map((r) => ({ title: r.procedure.title, state: runState(r.procedure, r.events) }));
  const first = job.diagnoses.at(-1)?.output.causes[0];
  const repaired = phaseNow(job) === 'after';
  const stored = (job.records.at(-1)?.codes ?? []).filter((c) => c.state !== 'pending').map((c) => c.code);
  const items = [
    ...(!repaired && first && first.fault !== 'balanced' && first.probability >= LIKELY
      ? ['What is most likely wrong has not been repaired yet.']
      : []),
    ...(repaired && !(proof && SETTLED.has(proof.verdict))
      ? ['That the repair works has not been shown by measurements yet.']
      : []),
    ...(stored.length > 0
      ? [`Stored in the car’s memory when it was last read: ${[...new Set(stored)].join(', ')}.`]
      : []),
    ...condemned,
    ...runs
      .filter((r) => r.state.source && !r.state.source.repaired)
      .map((r) => `${r.title}: where the dirt came from has not been mended yet, so it may come back.`),
    ...runs
      .filter((r) => r.state.status === 'running' || r.state.status === 'parked')
      .map((r) => `${r.title}: not finished.`),
    ...runs.flatMap((r) =>
      r.state.orders
        .filter(orderIsOpen)
        .map(
          (o) =>
            `${r.title}: a part ${o.is === 'ordered' ? 'is ordered and not here yet' : 'has still to be ordered'}: ${o.part}.`,
        ),
    ),
    ...runs.flatMap((r) => openAtEnd(r.state).map((o) => `${r.title}: ${LEFT[o.what]} ${o.text}.`)),
  ];
  const pending = pendingOf(job);
  if (pending && pending.state !== 'stays away')
    items.push(
      pending.state === 'came back'
        ? `A fault code has come back (${pending.text.replace(' came back.', '')}).`
        : 'Whether the fault stays away shows after two ordinary drives.',
    );
  const open = openMonitors(job);
  if (open.length > 0)
    items.push(
      `The car has not finished checking itself: ${open.map((m) => midSentence(MONITORS[m.id])).join(', ')}. An inspection may ask for that.`,
    );
  return items.length === 0 ? [text('Nothing that we know of.')] : list(items);
}

function watch(job: Job, clock: HandOverInput['clock']): DraftBlock[] {
  const first = job.diagnoses.at(-1)?.output.causes[0];
  const faults = repairedFaults(job);
  const about = faults.length > 0 ? faults : first && first.probability >= LIKELY ? [first.fault] : [];
  const own = about.flatMap((f) => CUSTOMER_WORDS[f]?.watch ?? []);
  const days = remindersOf(job)
    .filter((r) => r.kind !== 'open-monitor')
    .map((r) =>
      r.kind === 'pending-code'
        ? `Please come by on or after ${dayOf(r.dueAt, clock)}: we read the car's memory once more.`
        : `${dayOf(r.dueAt, clock)}: ${r.what}`,
    );
  return list([
    ...new Set(own),
    'If the engine lamp comes on, come back; if it blinks, drive gently and come the same day.',
    ...days,
  ]);
}
