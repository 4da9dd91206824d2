import { expect, test } from '@jest/globals';
import { findPoints } from '@just-balance/core/capture';
import { propose, separatorOf, TableReader, unitOfChannel } from '@just-balance/core/recordingFiles';
import Papa from 'papaparse';
import { CHANNEL_CHOICES } from '../src/recordings/importing/channels.ts';
import { CSV_LAYOUTS, TRUTH } from './csvLayouts.ts';

const ENGINE = { banks: 1, metered: true, fuel: 'petrol', turbo: false, baroKPa: 99.1 } as const;

test.each(CSV_LAYOUTS.map((l) => [l.name, l] as const))(
  '%s gives the drive back',
  (_, { name, text, correct, says }) => {
    const delimiter = separatorOf(text.split(/\r?\n/).slice(0, 20));
    const rows = Papa.parse<string[]>(text, { delimiter }).data;
    const proposed = propose(rows.slice(0, 60));
    if (proposed.missing) throw new Error(proposed.missing);
    const { mapping } = proposed;
    for (const [column, choice, id] of correct) {
      // What the page calls it, and what it stands for.
      expect(CHANNEL_CHOICES.flatMap((g) => g.choices).find((c) => c.id === id)?.label).toBe(choice);
      const unit = unitOfChannel(id);
      mapping.roles[mapping.headers.indexOf(column)] = { kind: 'channel', id, unit, from: unit };
    }
    const reader = new TableReader(mapping);
    for (const row of rows) reader.row(row);
    const { problems, leftOut } = reader.summary();
    const told = [
      ...problems.map((p) => `line ${p.line}: ${p.message}`),
      ...leftOut.map((l) => `${l.name}: ${l.why}`),
    ].join('\n');
    for (const words of says) expect(told).toMatch(words);
    const found = findPoints(reader.finish(), ENGINE);
    for (const [at, truth] of [
      ['idle', TRUTH.idle],
      ['hold-2500', TRUTH.hold],
    ] as const) {
      const point = found.find((f) => f.at === at)!;
      const r = point.reading;
      const near = (got: number | undefined, want: number, by: number) =>
        expect([at, Math.abs(got! - want) <= by, got]).toEqual([at, true, got]);
      near(r.rpm, truth.rpm, 2);
      near(r.mafGps, truth.mafGps, 0.02 * truth.mafGps);
      near(r.mapKPa, truth.mapKPa, 0.2);
      near(r.ectC, truth.ectC, 2);
      near(r.trims!.bank1!.stft! + r.trims!.bank1!.ltft!, truth.total, 0.3);
      // Only the log that tells its loop state is taken without a doubt.
      expect(point.flags).toEqual(name === 'long.csv' ? [] : ['loop state is not in the recording: closed is assumed']);
    }
  },
);
