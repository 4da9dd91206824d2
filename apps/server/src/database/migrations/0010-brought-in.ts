/**
 * Who brought a job in from an archive, and when: what its history says is then the archive's word, not this shop's. A
 * practice job whose answer is not given yet is sealed; a try has its place, which nobody else can take at the same time.
 */
export const STEPS = [
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
  'ALTER TABLE job_event ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS sealed TINYINT(1) NOT NULL DEFAULT 0',
  'ALTER TABLE practice_attempt ADD COLUMN IF NOT EXISTS place VARCHAR(80) NULL, ADD UNIQUE INDEX IF NOT EXISTS places (place)',
  // Whether a recording lies as rows or as columns was read out of its JSON, where something else could stand.
  "ALTER TABLE capture ADD COLUMN IF NOT EXISTS form VARCHAR(8) NOT NULL DEFAULT 'rows'",
  "UPDATE capture c SET form = 'columns' WHERE source = 'import' OR (EXISTS (SELECT 1 FROM capture_column x WHERE x.captureId = c.id) AND NOT EXISTS (SELECT 1 FROM capture_row r WHERE r.captureId = c.id))",
  // Repairs by hand were stamped with whatever cause led, whoever kept them: told apart from those that a guided work was for.
  "UPDATE repair r SET data = JSON_SET(data, '$.guessed', TRUE) WHERE JSON_VALUE(data, '$.fault') IS NOT NULL AND JSON_VALUE(data, '$.guessed') IS NULL AND NOT EXISTS (SELECT 1 FROM service_run s WHERE s.jobId = r.jobId AND JSON_VALUE(s.data, '$.title') <> '' AND JSON_VALUE(r.data, '$.text') LIKE CONCAT(JSON_VALUE(s.data, '$.title'), '%'))",
  // What they taught is worked out again.
  "UPDATE job j SET filed = 0 WHERE EXISTS (SELECT 1 FROM repair r WHERE r.jobId = j.id AND JSON_VALUE(r.data, '$.guessed') IS NOT NULL)",
];
