/** Records and readings that were typed can be put right afterwards; readings can be taken back. */
export const STEPS = [
  'ALTER TABLE vehicle_record ADD COLUMN IF NOT EXISTS rev INT NOT NULL DEFAULT 1 AFTER jobId',
  'ALTER TABLE reading ADD COLUMN IF NOT EXISTS undone TINYINT(1) NOT NULL DEFAULT 0 AFTER doubtful',
];
