import type { QueryInterface } from 'sequelize';

const OWNED = 'id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL';
const JOB = 'jobId CHAR(36) NOT NULL, FOREIGN KEY (jobId) REFERENCES job (id)';
const SHOP = 'FOREIGN KEY (shopId) REFERENCES shop (id)';

const TABLES = [
  `CREATE TABLE shop (id CHAR(36) NOT NULL PRIMARY KEY, name VARCHAR(120) NOT NULL, settings JSON NOT NULL, rev INT NOT NULL DEFAULT 1, createdAt DATETIME(3) NOT NULL)`,
  `CREATE TABLE account (${OWNED}, email VARCHAR(200) NOT NULL UNIQUE, name VARCHAR(120) NOT NULL, role VARCHAR(20) NOT NULL, passwordHash VARCHAR(200) NOT NULL, ${SHOP})`,
  `CREATE TABLE session (id CHAR(64) NOT NULL PRIMARY KEY, accountId CHAR(36) NOT NULL, expiresAt DATETIME(3) NOT NULL, createdAt DATETIME(3) NOT NULL, FOREIGN KEY (accountId) REFERENCES account (id))`,
  'CREATE TABLE idempotency_key (shopId CHAR(36) NOT NULL, `key` VARCHAR(80) NOT NULL, request VARCHAR(300) NOT NULL, status INT NULL, response JSON NULL, createdAt DATETIME(3) NOT NULL, PRIMARY KEY (shopId, `key`))',
  `CREATE TABLE vehicle (${OWNED}, rev INT NOT NULL DEFAULT 1, data JSON NOT NULL, ${SHOP})`,
  `CREATE TABLE job (${OWNED}, rev INT NOT NULL DEFAULT 1, vehicleId CHAR(36) NOT NULL, status VARCHAR(12) NOT NULL, complaint JSON NOT NULL, ambient JSON NOT NULL, adapter VARCHAR(120) NULL, openedBy VARCHAR(120) NOT NULL, ${SHOP}, FOREIGN KEY (vehicleId) REFERENCES vehicle (id), INDEX (shopId, createdAt))`,
  `CREATE TABLE job_event (${OWNED}, accountId CHAR(36) NULL, \`by\` VARCHAR(120) NOT NULL, kind VARCHAR(40) NOT NULL, data JSON NOT NULL, ${JOB}, INDEX (jobId, createdAt))`,
  `CREATE TABLE vehicle_record (${OWNED}, data JSON NOT NULL, ${JOB})`,
  `CREATE TABLE capture (${OWNED}, at VARCHAR(20) NOT NULL, phase VARCHAR(8) NOT NULL, state VARCHAR(10) NOT NULL, gaps INT NOT NULL DEFAULT 0, endedAt DATETIME(3) NULL, ${JOB}, INDEX (state))`,
  `CREATE TABLE capture_row (captureId CHAR(36) NOT NULL, epoch INT NOT NULL, seq INT NOT NULL, shopId CHAR(36) NOT NULL, atMs BIGINT NOT NULL, data JSON NOT NULL, PRIMARY KEY (captureId, epoch, seq), FOREIGN KEY (captureId) REFERENCES capture (id))`,
  `CREATE TABLE reading (${OWNED}, rev INT NOT NULL DEFAULT 1, phase VARCHAR(8) NOT NULL, source VARCHAR(8) NOT NULL, captureId CHAR(36) NULL, doubtful VARCHAR(200) NULL, data JSON NOT NULL, ${JOB})`,
  `CREATE TABLE test_result (${OWNED}, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, \`by\` VARCHAR(120) NOT NULL, data JSON NOT NULL, ${JOB})`,
  `CREATE TABLE repair (${OWNED}, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, \`by\` VARCHAR(120) NOT NULL, data JSON NOT NULL, ${JOB})`,
  `CREATE TABLE diagnosis (${OWNED}, coreVersion VARCHAR(20) NOT NULL, input JSON NOT NULL, settings JSON NOT NULL, output JSON NOT NULL, ${JOB})`,
  `CREATE TABLE link_lease (address VARCHAR(120) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, holder VARCHAR(64) NOT NULL, epoch INT NOT NULL, expiresAt DATETIME(3) NOT NULL)`,
  // Append-only, held by the database itself.
  `CREATE TRIGGER job_event_no_update BEFORE UPDATE ON job_event FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'job_event is append-only'`,
  `CREATE TRIGGER job_event_no_delete BEFORE DELETE ON job_event FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'job_event is append-only'`,
];

/** Forward only: a shop's data is never rolled back by dropping tables. */
export async function up({ context }: { context: QueryInterface }): Promise<void> {
  for (const sql of TABLES) await context.sequelize.query(sql);
}
