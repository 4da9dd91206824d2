export const STEPS = [
  // What a capture is beside its samples: see CaptureMeta.
  'ALTER TABLE capture ADD COLUMN IF NOT EXISTS source VARCHAR(8) NOT NULL DEFAULT "link", ADD COLUMN IF NOT EXISTS name VARCHAR(200) NULL, ADD COLUMN IF NOT EXISTS meta JSON NULL',
  `CREATE TABLE IF NOT EXISTS capture_column (captureId CHAR(36) NOT NULL, channel VARCHAR(60) NOT NULL, part INT NOT NULL, shopId CHAR(36) NOT NULL, unit VARCHAR(20) NOT NULL, quantum DOUBLE NULL, kind VARCHAR(8) NOT NULL, n INT NOT NULL, fromS DOUBLE NOT NULL, toS DOUBLE NOT NULL, data MEDIUMBLOB NOT NULL, levels MEDIUMBLOB NULL, PRIMARY KEY (captureId, channel, part), FOREIGN KEY (captureId) REFERENCES capture (id))`,
];
