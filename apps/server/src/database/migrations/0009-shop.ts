/** Ids compared byte by byte: a logbook compares them by the million. Jobs are never deleted, so nothing has to follow. */
const PLAIN = 'CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL';

/** What finds a job, what it teaches, what is learned of all, and who changed the shop. */
export const STEPS = [
  'ALTER TABLE job ADD COLUMN IF NOT EXISTS practice TINYINT(1) NOT NULL DEFAULT 0 AFTER adapter, ADD COLUMN IF NOT EXISTS filed TINYINT(1) NOT NULL DEFAULT 0 AFTER practice, ADD COLUMN IF NOT EXISTS remindAt DATETIME(3) NULL AFTER filed',
  'ALTER TABLE job ADD INDEX IF NOT EXISTS open_jobs (shopId, practice, status, createdAt, id), ADD INDEX IF NOT EXISTS all_jobs (shopId, practice, createdAt, id), ADD INDEX IF NOT EXISTS to_file (filed), ADD INDEX IF NOT EXISTS reminders (shopId, remindAt)',
  'ALTER TABLE job_event ADD INDEX IF NOT EXISTS trail (shopId, createdAt, id)',
  // Append-only but for one thing: a person's right to be forgotten.
  'DROP TRIGGER IF EXISTS job_event_no_update',
  "CREATE TRIGGER IF NOT EXISTS job_event_only_erased BEFORE UPDATE ON job_event FOR EACH ROW IF @jb_erasing IS NULL OR NEW.id <> OLD.id OR NEW.kind <> OLD.kind OR NEW.`by` <> OLD.`by` OR NEW.createdAt <> OLD.createdAt OR NEW.jobId <> OLD.jobId THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'job_event is append-only'; END IF",
  'ALTER TABLE shop ADD COLUMN IF NOT EXISTS learned JSON NULL',
  `CREATE TABLE IF NOT EXISTS job_tag (jobId ${PLAIN}, kind VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, value VARCHAR(120) COLLATE utf8mb4_bin NOT NULL, shopId ${PLAIN}, createdAt DATETIME(3) NOT NULL, PRIMARY KEY (jobId, kind, value), INDEX found (shopId, kind, value, createdAt, jobId))`,
  `CREATE TABLE IF NOT EXISTS shop_word (shopId ${PLAIN}, word VARCHAR(120) COLLATE utf8mb4_bin NOT NULL, PRIMARY KEY (shopId, word))`,
  'CREATE TABLE IF NOT EXISTS job_lesson (jobId CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, leftOut TINYINT(1) NOT NULL DEFAULT 0, data JSON NOT NULL, INDEX (shopId, createdAt), FOREIGN KEY (jobId) REFERENCES job (id))',
  'CREATE TABLE IF NOT EXISTS shop_change (id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, accountId CHAR(36) NULL, `by` VARCHAR(120) NOT NULL, kind VARCHAR(40) NOT NULL, data JSON NOT NULL, INDEX (shopId, createdAt), FOREIGN KEY (shopId) REFERENCES shop (id))',
  'CREATE TABLE IF NOT EXISTS saved_view (id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, accountId CHAR(36) NOT NULL, name VARCHAR(80) NOT NULL, query VARCHAR(1000) NOT NULL, INDEX (accountId, createdAt), FOREIGN KEY (accountId) REFERENCES account (id))',
  'CREATE TABLE IF NOT EXISTS practice_attempt (id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, rev INT NOT NULL DEFAULT 1, accountId CHAR(36) NOT NULL, `by` VARCHAR(120) NOT NULL, jobId CHAR(36) NULL, data JSON NOT NULL, UNIQUE (jobId), INDEX (shopId, createdAt), INDEX (accountId, createdAt), FOREIGN KEY (jobId) REFERENCES job (id))',
];
