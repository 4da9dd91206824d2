import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CSV_LAYOUTS, type CsvLayout } from '../../apps/web/test/csvLayouts.ts';

export type CsvFile = CsvLayout & { path: string };

/** Files of these layouts, in a folder of their own. All six are read as units beside the web's tests. */
export function writeCsvFiles(...names: readonly string[]): CsvFile[] {
  const dir = mkdtempSync(join(tmpdir(), 'jb-csv-'));
  return CSV_LAYOUTS.filter((l) => names.includes(l.name)).map((l) => {
    const path = join(dir, l.name);
    writeFileSync(path, l.text);
    return { ...l, path };
  });
}
