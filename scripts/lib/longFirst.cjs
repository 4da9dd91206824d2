const { default: Sequencer } = require('@jest/test-sequencer');

/** Files that wait for real time, longest first: begun last they would run on alone. A clean clone has no times of its own. */
const LONG = [
  'apps/server/test/links.test.ts',
  'apps/server/test/bays.test.ts',
  'apps/cli/test/jb.test.ts',
  'e2e/shop.test.ts',
  'e2e/journey.test.ts',
  'e2e/drive.test.ts',
  'e2e/service.test.ts',
  'e2e/capture.test.ts',
  'e2e/offline.test.ts',
];
const rank = (path) => {
  const at = LONG.findIndex((l) => path.endsWith(l));
  return at < 0 ? LONG.length : at;
};

module.exports = class extends Sequencer {
  sort(tests) {
    // The order that Jest would take stands among the rest: this sort keeps equals where they are.
    return super.sort(tests).sort((a, b) => rank(a.path) - rank(b.path));
  }
};
