/** Drive procedures and inspection rules beside service procedures. */
export const STEPS = [
  "ALTER TABLE own_procedure ADD COLUMN IF NOT EXISTS kind VARCHAR(12) NOT NULL DEFAULT 'service' AFTER slug",
  // The new index first: it serves the foreign key while the old one goes.
  'ALTER TABLE own_procedure ADD UNIQUE INDEX IF NOT EXISTS own_by_kind (shopId, kind, slug)',
  'ALTER TABLE own_procedure DROP INDEX IF EXISTS shopId',
];
