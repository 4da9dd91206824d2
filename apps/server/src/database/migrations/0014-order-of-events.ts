/** Where an event of a run that came at once stands among the others: by the moment it came, which is the shop's own. */
export const STEPS = ['ALTER TABLE service_event ADD COLUMN IF NOT EXISTS orderMs BIGINT NULL AFTER atMs'];
