const { execFileSync } = require('node:child_process');
const { mkdtempSync } = require('node:fs');
const { tmpdir } = require('node:os');
const { join } = require('node:path');

/** One database with the demo in it, made once for a run: each fixture of the tests begins with a copy. */
module.exports = async () => {
  const dir = mkdtempSync(join(tmpdir(), 'jb-api-template-'));
  process.env.JB_API_TEMPLATE = dir;
  execFileSync(process.execPath, [join(__dirname, 'template.mjs'), dir], { stdio: ['ignore', 'ignore', 'inherit'] });
};
