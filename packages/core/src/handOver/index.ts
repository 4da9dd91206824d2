import { customerDocument } from './customer.ts';
import { type Draft, type HandOverDocument, inOwnWords, inUnits, type Wording } from './document.ts';
import type { HandOverInput } from './input.ts';
import { technicianDocument } from './technician.ts';

export { CUSTOMER_WORDS, type CustomerWords } from './customerWords.ts';
export { type Clock, dayOf, momentOf, UTC } from './days.ts';
export {
  type Block,
  DOCUMENT_IDS,
  type DocumentId,
  type DocumentSection,
  type HandOverDocument,
  inOwnWords,
  type OtherWords,
  sectionWords,
  type TrimChartRow,
  type Wording,
} from './document.ts';
export {
  afterJob,
  type HandOverJob,
  leftOpen,
  openMonitors,
  proofOfJob,
  provenHere,
  recentWorkFrom,
  repairedFaults,
  standing,
  stillCondemned,
  torquesOf,
} from './facts.ts';
export type { HandOverInput, Labour, Letterhead } from './input.ts';
export { labourOf } from './labour.ts';
export { beforeItGoesOut, type OutgoingCheck } from './outgoing.ts';
export { pendingOf, type Recheck, type Reminder, remindersOf } from './reminders.ts';

/** Both documents from the same facts, in the words that people have put in place of ours. */
export function handOverDocuments(input: HandOverInput): { customer: HandOverDocument; technician: HandOverDocument } {
  const wordings = input.job.entries.flatMap((e, i) =>
    e.kind === 'wording' && !e.undone
      ? [{ ...(e.data as Omit<Wording, 'id' | 'at' | 'by'>), id: e.id ?? String(i), at: e.at, by: e.by }]
      : [],
  );
  const worded = (d: Draft) => inOwnWords(inUnits(d, input.units), wordings);
  return { customer: worded(customerDocument(input)), technician: worded(technicianDocument(input)) };
}
