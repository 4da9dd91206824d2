const { mkdtempSync } = require('node:fs');
const { tmpdir } = require('node:os');
const { join } = require('node:path');

/** One directory for all that the workers of a run make. */
module.exports = async () => {
  process.env.JB_E2E_DIR = mkdtempSync(join(tmpdir(), 'jb-e2e-'));
};
