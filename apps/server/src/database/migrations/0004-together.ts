/** People, sessions, idempotency with the work, the board's summary, captures and links shared by several servers. */
export const STEPS = [
  "ALTER TABLE account ADD COLUMN IF NOT EXISTS rev INT NOT NULL DEFAULT 1, ADD COLUMN IF NOT EXISTS disabledAt DATETIME(3) NULL, MODIFY COLUMN passwordHash VARCHAR(200) NOT NULL DEFAULT ''",
  "ALTER TABLE session ADD COLUMN IF NOT EXISTS device VARCHAR(200) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS seenAt DATETIME(3) NULL",
  // A one-time link, kept by the hash of its token: it sets a password once.
  'CREATE TABLE IF NOT EXISTS invitation (id CHAR(64) NOT NULL PRIMARY KEY, accountId CHAR(36) NOT NULL, expiresAt DATETIME(3) NOT NULL, createdAt DATETIME(3) NOT NULL, FOREIGN KEY (accountId) REFERENCES account (id), INDEX (accountId))',
  // A browser that has signed in to an account before: guesses from elsewhere do not slow it down.
  'CREATE TABLE IF NOT EXISTS known_device (id CHAR(64) NOT NULL, accountId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, PRIMARY KEY (id, accountId), FOREIGN KEY (accountId) REFERENCES account (id))',
  'CREATE TABLE IF NOT EXISTS done_request (accountId CHAR(36) NOT NULL, keyHash CHAR(64) NOT NULL, request VARCHAR(300) NOT NULL, bodyHash CHAR(64) NOT NULL, status SMALLINT NOT NULL, response JSON NULL, createdAt DATETIME(3) NOT NULL, PRIMARY KEY (accountId, keyHash), INDEX (createdAt))',
  'DROP TABLE IF EXISTS idempotency_key',
  // What the board shows, written with every write into the job; `changes` counts them.
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS summary JSON NULL, ADD COLUMN IF NOT EXISTS changes INT NOT NULL DEFAULT 0, ADD INDEX IF NOT EXISTS job_board (shopId, createdAt, id), ADD INDEX IF NOT EXISTS job_board_status (shopId, status, createdAt, id), ADD INDEX IF NOT EXISTS job_board_mine (shopId, openedBy, status, createdAt, id)',
  'ALTER TABLE capture ADD COLUMN IF NOT EXISTS status JSON NULL, ADD COLUMN IF NOT EXISTS command JSON NULL, ADD COLUMN IF NOT EXISTS receivedSamples BIGINT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS receivedBytes BIGINT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS receivedParts BIGINT NOT NULL DEFAULT 0',
  // Nobody read it: the page makes its own.
  'ALTER TABLE capture_column DROP COLUMN IF EXISTS levels',
  // At most one capture runs on a job. What an older version left running twice is ended first, the newest stays.
  "UPDATE capture c JOIN (SELECT jobId, MAX(CONCAT(createdAt, id)) newest FROM capture WHERE state = 'running' GROUP BY jobId) k ON k.jobId = c.jobId SET c.state = 'failed', c.endedAt = NOW(3) WHERE c.state = 'running' AND CONCAT(c.createdAt, c.id) <> k.newest",
  "ALTER TABLE capture ADD COLUMN IF NOT EXISTS runs TINYINT AS (IF(state = 'running', 1, NULL)) STORED, ADD UNIQUE INDEX IF NOT EXISTS capture_one_running (jobId, runs)",
  'ALTER TABLE link_lease ADD COLUMN IF NOT EXISTS jobId CHAR(36) NULL, ADD COLUMN IF NOT EXISTS status JSON NULL, ADD INDEX IF NOT EXISTS link_lease_job (jobId)',
];
