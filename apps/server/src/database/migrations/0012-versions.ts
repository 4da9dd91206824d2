/** What a shop's own procedures, drives and rules said before they were changed. */
export const STEPS = [
  'CREATE TABLE IF NOT EXISTS own_version (id CHAR(36) NOT NULL PRIMARY KEY, shopId CHAR(36) NOT NULL, createdAt DATETIME(3) NOT NULL, ownId CHAR(36) NOT NULL, rev INT NOT NULL, `by` VARCHAR(120) NOT NULL, data JSON NOT NULL, FOREIGN KEY (shopId) REFERENCES shop (id), FOREIGN KEY (ownId) REFERENCES own_procedure (id), UNIQUE (ownId, rev))',
];
