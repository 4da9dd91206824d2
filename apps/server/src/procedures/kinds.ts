import type { FieldError } from '@just-balance/contract';
import { checkDriveProcedure, readDriveProcedure } from '@just-balance/contract/drives';
import { readProcedure } from '@just-balance/contract/procedures';
import { checkInspectionRule, readInspectionRule } from '@just-balance/contract/rules';
import { type OwnKind, storedProcedureProblems } from '@just-balance/contract/service';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { DRIVE_PROCEDURES, INSPECTION_RULES } from '@just-balance/core/readiness';

/** What is the same in all that a shop keeps as text. */
export interface OwnData {
  id: string;
  title: string;
}

/** A text read: what it is, or every fault with its line and field. */
export type ReadOwn =
  | { ok: true; value: OwnData }
  | { ok: false; errors: { line: number; field: string; message: string }[] };

interface Kind {
  /** What a person calls one. */
  one: string;
  shipped: readonly OwnData[];
  read(text: string): ReadOwn;
  /** Every fault of what lies in the database. */
  problems(json: unknown): readonly FieldError[];
}

export const KINDS: Readonly<Record<OwnKind, Kind>> = {
  service: {
    one: 'procedure',
    shipped: SHIPPED_PROCEDURES,
    read: (text) => {
      const r = readProcedure(text);
      return r.ok ? { ok: true, value: r.procedure } : r;
    },
    problems: storedProcedureProblems,
  },
  drive: {
    one: 'drive procedure',
    shipped: DRIVE_PROCEDURES,
    read: (text) => {
      const r = readDriveProcedure(text);
      return r.ok ? { ok: true, value: r.procedure } : r;
    },
    problems: (json) => {
      const r = checkDriveProcedure(json);
      return r.ok ? [] : r.errors;
    },
  },
  rule: {
    one: 'inspection rule',
    shipped: INSPECTION_RULES,
    read: (text) => {
      const r = readInspectionRule(text);
      return r.ok ? { ok: true, value: r.rule } : r;
    },
    problems: (json) => {
      const r = checkInspectionRule(json);
      return r.ok ? [] : r.errors;
    },
  },
};
