const { createHash } = require('node:crypto');
const { relative } = require('node:path');

const SRC = require('node:path').join(__dirname, '../src');

/** In the place of a source file of the server stands what was built of it. */
module.exports = {
  process: (_, file) => ({ code: `module.exports = jbServer(${JSON.stringify(relative(SRC, file))});` }),
  getCacheKey: (_, file) =>
    createHash('sha256')
      .update(`built ${relative(SRC, file)}`)
      .digest('hex'),
};
