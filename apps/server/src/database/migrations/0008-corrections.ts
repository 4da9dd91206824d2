/** Records and readings that were typed can be put right afterwards; readings can be taken back. A test says whether it was after a repair; how
 * tables of a tool are read is remembered in the shop. */
export const STEPS = [
  'ALTER TABLE vehicle_record ADD COLUMN IF NOT EXISTS rev INT NOT NULL DEFAULT 1 AFTER jobId',
  'ALTER TABLE reading ADD COLUMN IF NOT EXISTS undone TINYINT(1) NOT NULL DEFAULT 0 AFTER doubtful',
  "ALTER TABLE test_result ADD COLUMN IF NOT EXISTS phase VARCHAR(8) NOT NULL DEFAULT 'before' AFTER undone",
  // What was tested after a repair was done with the car as it then was.
  "UPDATE test_result t SET phase = 'after' WHERE phase = 'before' AND EXISTS (SELECT 1 FROM repair r WHERE r.jobId = t.jobId AND r.undone = 0 AND r.createdAt < t.createdAt)",
  'CREATE TABLE IF NOT EXISTS table_layout (shopId CHAR(36) NOT NULL, headersHash CHAR(64) NOT NULL, `by` VARCHAR(120) NOT NULL, data JSON NOT NULL, PRIMARY KEY (shopId, headersHash), FOREIGN KEY (shopId) REFERENCES shop (id))',
];
