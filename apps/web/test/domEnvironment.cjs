const { TestEnvironment } = require('jest-environment-jsdom');

/** jsdom with what every browser has and it lacks. */
module.exports = class extends TestEnvironment {
  constructor(...given) {
    super(...given);
    for (const name of [
      'TextEncoder',
      'TextDecoder',
      'structuredClone',
      'Response',
      'Headers',
      'Request',
      'ReadableStream',
      'WritableStream',
      'TransformStream',
    ])
      this.global[name] ??= globalThis[name];
    for (const name of ['mark', 'measure']) this.global.performance[name] ??= () => {};
    // Nothing has a size here: it never calls.
    this.global.ResizeObserver ??= class {
      observe() {}
      unobserve() {}
      disconnect() {}
    };
  }
};
