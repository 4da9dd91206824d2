import { complaintLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import { familyOf } from '@just-balance/core/expected';
import { type HandOverJob, provenHere, repairedFaults, standing } from '@just-balance/core/handOver';
import { type JobOutcome, jobOutcome, searchWords } from '@just-balance/core/shop';
import { Op, type Transaction } from 'sequelize';
import { type Job, type StoredSummary } from '../rows/jobs.ts';
import { JobOutcomeRow } from '../rows/learning.ts';
import { JobTag, ShopWord } from '../rows/logbook.ts';
import { handOverJobOf, type JobParts } from './parts.ts';
import { storedSummary } from './summaries.ts';

/** What a job is found by beside its words. */
export const TAG_KINDS = ['vehicle', 'family', 'code', 'cause', 'part', 'person', 'verdict', 'status'] as const;
export type TagKind = (typeof TAG_KINDS)[number];

/** Words of one job that can be searched. [house] */
const MOST_WORDS = 250;
const LONGEST = 120;

/**
 * Put a job where it is found and learned from: its summary for the board, its tags for the logbook, its outcome for the
 * shop. `taught`: what it teaches has changed. Practice leaves neither tags nor an outcome.
 */
export async function indexJob(
  job: Job,
  parts: JobParts,
  settings: Settings,
  transaction: Transaction,
): Promise<{ summary: StoredSummary; remindAt: Date | null; orders: number; taught: boolean }> {
  const whole = handOverJobOf(job, parts);
  const proof = provenHere(whole, settings);
  const known = storedSummary(whole, parts, proof);
  const found = {
    causes: causesOf(whole, known),
    codes: [...new Set(whole.records.flatMap((r) => r.codes.map((c) => c.code)))].sort(),
  };
  const summary = { ...known, found: { cause: found.causes[0] ?? null, codes: found.codes } };
  if (job.practice) return { summary, remindAt: null, orders: 0, taught: false };
  await keepTags(job, tagsOf(job, whole, summary, found), transaction);
  const taught = await keepOutcome(job, jobOutcome(whole, proof), transaction);
  const due = summary.waits.find((w) => w.for === 'trip' || w.for === 'look-again')?.until;
  return { summary, remindAt: due ? new Date(due) : null, orders: summary.orders?.length ?? 0, taught };
}

/** What was repaired; of a job without a repair what leads. */
function causesOf(whole: HandOverJob, summary: StoredSummary): string[] {
  const repaired = repairedFaults(whole);
  return repaired.length > 0 ? repaired : summary.leading ? [summary.leading.fault] : [];
}

function tagsOf(
  job: Job,
  whole: HandOverJob,
  summary: StoredSummary,
  { causes, codes }: { causes: string[]; codes: string[] },
): Map<string, Set<string>> {
  const v = whole.vehicle as HandOverJob['vehicle'] & { plate?: string };
  const parts = standing<{ name: string; number?: string; supersededBy?: string }>(whole, 'part');
  const repairs = whole.repairs.filter((r) => !r.undone);
  // Names that an archive brought are its words: nobody of this shop is found by them.
  const here = (at: number) => !job.importedAt || at > job.importedAt.getTime();
  const people = new Set([
    ...(job.importedAt ? [] : [whole.openedBy]),
    ...[...whole.tests, ...repairs].flatMap((r) => (here(Date.parse(r.at)) ? [r.by] : [])),
    ...whole.runs.flatMap((r) => r.events.flatMap((e) => (here(e.atMs) ? [e.by] : []))),
  ]);
  const named = [...repairs.flatMap((r) => r.part ?? []), ...parts.map((p) => p.name)].map((p) =>
    p.trim().toLowerCase(),
  );
  const texts = [
    v.label,
    v.note,
    v.plate,
    // A plate is written in many ways.
    v.plate?.replace(/[^\p{L}\p{N}]/gu, ''),
    v.vin,
    v.year,
    ...whole.records.flatMap((r) => (r as { vin?: string | null }).vin ?? []),
    whole.complaint.story,
    whole.complaint.noticedBy,
    ...whole.complaint.symptoms.map(complaintLabel),
    ...causes.map(faultLabel),
    ...codes,
    ...people,
    ...repairs.map((r) => r.text),
    ...named,
    ...parts.flatMap((p) => [p.number, p.supersededBy]),
    ...whole.tests.filter((t) => !t.undone).map((t) => TEST_BY_ID.get(t.test.id)?.label),
    ...whole.runs.map((r) => r.procedure.title),
  ];
  const of = (values: Iterable<string>) => new Set([...values].filter((x) => x !== '').map((x) => x.slice(0, LONGEST)));
  const tags: Record<TagKind, Iterable<string>> = {
    vehicle: [job.vehicleId],
    family: [familyOf(v)],
    code: codes,
    cause: causes,
    part: named,
    person: people,
    verdict: summary.standing.proof ? [summary.standing.proof.verdict] : [],
    status: [job.status],
  };
  return new Map([
    ...TAG_KINDS.map((k) => [k, of(tags[k])] as const),
    ['word', of(searchWords(texts.filter(Boolean).join(' ')).slice(0, MOST_WORDS))] as const,
  ]);
}

/** Only what differs is written: most writes change no tag. */
async function keepTags(
  job: Job,
  tags: ReadonlyMap<string, ReadonlySet<string>>,
  transaction: Transaction,
): Promise<void> {
  const { id: jobId, shopId, createdAt } = job;
  const there = await JobTag.findAll({ where: { jobId }, attributes: ['kind', 'value'], transaction, raw: true });
  const key = (kind: string, value: string) => `${kind} ${value}`;
  const before = new Set(there.map((t) => key(t.kind, t.value)));
  const gone = there.filter((t) => !tags.get(t.kind)?.has(t.value));
  const fresh = [...tags].flatMap(([kind, values]) =>
    [...values]
      .filter((value) => !before.has(key(kind, value)))
      .map((value) => ({ jobId, kind, value, shopId, createdAt })),
  );
  if (gone.length > 0)
    await JobTag.destroy({
      where: { jobId, [Op.or]: gone.map(({ kind, value }) => ({ kind, value })) },
      transaction,
    });
  if (fresh.length > 0) await JobTag.bulkCreate(fresh, { transaction });
  const words = (list: readonly { kind: string; value: string }[]) =>
    list.flatMap((t) => (t.kind === 'word' ? t.value : []));
  await keepWords(shopId, words(fresh), transaction);
  await dropWords(shopId, words(gone), transaction);
}

async function keepWords(shopId: string, words: readonly string[], transaction: Transaction): Promise<void> {
  if (words.length === 0) return;
  await ShopWord.bulkCreate(
    // In order: two writers of the same words wait for each other, and never in a ring.
    [...words].sort().map((word) => ({ shopId, word })),
    { ignoreDuplicates: true, transaction },
  );
}

/** Words that no job of the shop has any more: a plate that was taken out must not be found by its beginning. */
export async function dropWords(shopId: string, words: readonly string[], transaction: Transaction): Promise<void> {
  if (words.length === 0) return;
  await ShopWord.sequelize!.query(
    "DELETE FROM shop_word WHERE shopId = :shopId AND word IN (:words) AND NOT EXISTS (SELECT 1 FROM job_tag t WHERE t.shopId = shop_word.shopId AND t.kind = 'word' AND t.value = shop_word.word)",
    { replacements: { shopId, words }, transaction },
  );
}

async function keepOutcome(job: Job, outcome: JobOutcome, transaction: Transaction): Promise<boolean> {
  const before = await JobOutcomeRow.findOne({ where: { jobId: job.id }, transaction });
  if (before && JSON.stringify(before.data) === JSON.stringify(outcome)) return false;
  if (before) await before.update({ data: outcome }, { transaction });
  else
    await JobOutcomeRow.create(
      { jobId: job.id, shopId: job.shopId, createdAt: job.createdAt, leftOut: false, data: outcome },
      { transaction },
    );
  const taught = (l: JobOutcome | undefined) => l !== undefined && (l.proven.length > 0 || l.cameBackOf !== null);
  return taught(before?.data) || taught(outcome);
}
