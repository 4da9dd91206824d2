/** Who brought a job in from an archive, and when: what its history says is then the archive's word, not this shop's. */
export const STEPS = [
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
  'ALTER TABLE job_event ADD COLUMN IF NOT EXISTS importedBy VARCHAR(120) NULL, ADD COLUMN IF NOT EXISTS importedAt DATETIME(3) NULL',
];
