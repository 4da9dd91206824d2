const OWNED =
  'id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, `by` VARCHAR(120) NOT NULL';
const OF_A_JOB =
  'jobId CHAR(36) NOT NULL, FOREIGN KEY (shopId) REFERENCES shop (id), FOREIGN KEY (jobId) REFERENCES job (id), INDEX (jobId, createdAt)';

/** Runs of service procedures as events, what is written beside them, pictures, and the shop's own procedures. */
export const STEPS = [
  `CREATE TABLE IF NOT EXISTS service_run (${OWNED}, data JSON NOT NULL, ${OF_A_JOB})`,
  `CREATE TABLE IF NOT EXISTS service_event (${OWNED}, runId CHAR(36) NOT NULL, atMs BIGINT NOT NULL, data JSON NOT NULL, ${OF_A_JOB}, FOREIGN KEY (runId) REFERENCES service_run (id), INDEX (runId, atMs))`,
  `CREATE TABLE IF NOT EXISTS service_entry (${OWNED}, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, kind VARCHAR(12) NOT NULL, data JSON NOT NULL, ${OF_A_JOB}, INDEX (shopId, kind))`,
  `CREATE TABLE IF NOT EXISTS photo (${OWNED}, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, runId CHAR(36) NULL, step VARCHAR(60) NULL, label VARCHAR(120) NOT NULL DEFAULT '', good BOOLEAN NOT NULL DEFAULT FALSE, width INT NOT NULL, height INT NOT NULL, bytes INT NOT NULL, image MEDIUMBLOB NOT NULL, small BLOB NOT NULL, ${OF_A_JOB}, INDEX (shopId, good))`,
  `CREATE TABLE IF NOT EXISTS own_procedure (${OWNED}, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, slug VARCHAR(60) NOT NULL, copiedFrom VARCHAR(60) NULL, data JSON NOT NULL, FOREIGN KEY (shopId) REFERENCES shop (id), UNIQUE (shopId, slug))`,
];
