const { TestEnvironment } = require('jest-environment-node');

/**
 * A Node environment in which the built server is the worker's own: read once for all the files that a worker runs, and
 * outside of the sandbox, which makes it slow. `built.cjs` puts it in the place of each source file of the server.
 */
module.exports = class extends TestEnvironment {
  async setup() {
    await super.setup();
    const { builtServer } = await import('./builtServer.mjs');
    this.global.jbServer = await builtServer();
    // The clock that the server reads; the sandbox has another one.
    this.global.jbServerDate = Date;
  }
};
