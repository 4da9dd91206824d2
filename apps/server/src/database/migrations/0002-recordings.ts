import type { QueryInterface } from 'sequelize';

const STEPS = [
  // What a capture is beside its samples: see CaptureMeta.
  'ALTER TABLE capture ADD COLUMN source VARCHAR(8) NOT NULL DEFAULT "link", ADD COLUMN name VARCHAR(200) NULL, ADD COLUMN meta JSON NULL',
  `CREATE TABLE capture_column (captureId CHAR(36) NOT NULL, channel VARCHAR(60) NOT NULL, part INT NOT NULL, shopId CHAR(36) NOT NULL, unit VARCHAR(20) NOT NULL, quantum DOUBLE NULL, kind VARCHAR(8) NOT NULL, n INT NOT NULL, fromS DOUBLE NOT NULL, toS DOUBLE NOT NULL, data MEDIUMBLOB NOT NULL, levels MEDIUMBLOB NULL, PRIMARY KEY (captureId, channel, part), FOREIGN KEY (captureId) REFERENCES capture (id))`,
];

export async function up({ context }: { context: QueryInterface }): Promise<void> {
  for (const sql of STEPS) await context.sequelize.query(sql);
}
