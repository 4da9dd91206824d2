export const STEPS = [
  // Figures that beat physics: entered for one vehicle, or the shop's known good of an engine family.
  'CREATE TABLE IF NOT EXISTS known_figure (id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, rev INT NOT NULL DEFAULT 1, undone BOOLEAN NOT NULL DEFAULT FALSE, `by` VARCHAR(120) NOT NULL, jobId CHAR(36) NOT NULL, vehicleId CHAR(36) NOT NULL, family VARCHAR(120) NOT NULL, layer VARCHAR(8) NOT NULL, data JSON NOT NULL, FOREIGN KEY (shopId) REFERENCES shop (id), FOREIGN KEY (jobId) REFERENCES job (id), FOREIGN KEY (vehicleId) REFERENCES vehicle (id), INDEX (shopId, family), INDEX (vehicleId))',
];
