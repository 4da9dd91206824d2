/** The frames that were on the bus while a capture ran, beside its values. */
export const STEPS = [
  `CREATE TABLE IF NOT EXISTS capture_frames (captureId CHAR(36) NOT NULL, epoch INT NOT NULL, seq INT NOT NULL, shopId CHAR(36) NOT NULL, atMs BIGINT NOT NULL, n INT NOT NULL, lost BIGINT NOT NULL DEFAULT 0, data MEDIUMBLOB NOT NULL, PRIMARY KEY (captureId, epoch, seq), FOREIGN KEY (captureId) REFERENCES capture (id))`,
];
