/** How many parts a job still waits for or has here unfitted: one list over all jobs. Jobs that asked for some are filed anew. */
export const STEPS = [
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS orders INT NOT NULL DEFAULT 0 AFTER remindAt, ADD INDEX IF NOT EXISTS with_orders (shopId, orders)',
  "UPDATE job j SET filed = 0 WHERE EXISTS (SELECT 1 FROM service_event e WHERE e.jobId = j.id AND JSON_VALUE(e.data, '$.kind') = 'parked')",
];
