const { createHash } = require('node:crypto');
const { join, relative } = require('node:path');

const SRC = join(__dirname, '../src');
const codeOf = (file) => `module.exports = jbServer(${JSON.stringify(relative(SRC, file))});`;

/** In the place of a source file of the server stands what was built of it. */
module.exports = {
  process: (_, file) => ({ code: codeOf(file) }),
  getCacheKey: (_, file) => createHash('sha256').update(codeOf(file)).digest('hex'),
};
