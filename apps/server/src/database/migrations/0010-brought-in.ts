/**
 * Who brought a job in from an archive, and when: what its history says is then the archive's word, not this shop's. A
 * practice job whose answer is not given yet is sealed; a try has its place, which nobody else can take at the same time.
 */
export const STEPS = [
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
  'ALTER TABLE job_event ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS sealed TINYINT(1) NOT NULL DEFAULT 0',
  'ALTER TABLE practice_attempt ADD COLUMN IF NOT EXISTS place VARCHAR(80) NULL, ADD UNIQUE INDEX IF NOT EXISTS places (place)',
];
