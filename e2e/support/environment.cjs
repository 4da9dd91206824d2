const { TestEnvironment } = require('jest-environment-node');

/** A Node environment in which `jb` is the worker's own: it outlives the file that a test stands in. */
module.exports = class extends TestEnvironment {
  async setup() {
    await super.setup();
    this.global.jb = await import('./stack.mjs');
  }
};
