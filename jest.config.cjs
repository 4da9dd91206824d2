/** One config: unit (no outside processes), web (components in a document), api (a real MariaDB), e2e (the real interface). */
const { patient } = require('./scripts/lib/patience.cjs');

const common = {
  transform: {
    '^.+\\.tsx$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
        sourceMaps: 'inline',
      },
    ],
    '^.+\\.ts$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false },
          keepClassNames: true,
        },
        module: { type: 'commonjs' },
        sourceMaps: 'inline',
      },
    ],
    '^.+\\.m?js$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'ecmascript' } }, module: { type: 'commonjs' } },
    ],
  },
  transformIgnorePatterns: ['/node_modules/(?!(@nestjs|@tanstack|@zip\\.js|uuid|d3-[a-z-]+|internmap)/)'],
  testEnvironment: 'node',
  // Looked up through Jest's sandbox these two make a simulation several times slower.
  sandboxInjectedGlobals: ['Math', 'Number'],
  testEnvironmentOptions: { customExportConditions: ['@just-balance/source', 'node', 'node-addons'] },
  modulePathIgnorePatterns: ['/dist/', '/.data/'],
};

module.exports = {
  // The only limit of a test and of a hook. A loaded machine may be slow; a test that hangs still ends.
  testTimeout: patient(180_000),
  testSequencer: '<rootDir>/scripts/lib/longFirst.cjs',
  projects: [
    {
      ...common,
      displayName: 'unit',
      testMatch: [
        '<rootDir>/packages/*/test/**/*.test.ts',
        '<rootDir>/apps/cli/test/**/*.test.ts',
        '<rootDir>/apps/web/test/**/*.test.ts',
        '<rootDir>/scripts/test/**/*.test.ts',
      ],
    },
    {
      ...common,
      displayName: 'web',
      testEnvironment: '<rootDir>/apps/web/test/domEnvironment.cjs',
      testMatch: ['<rootDir>/apps/web/test/**/*.test.tsx'],
    },
    {
      ...common,
      displayName: 'api',
      testEnvironment: '<rootDir>/apps/server/test/environment.cjs',
      globalSetup: '<rootDir>/apps/server/test/begin.cjs',
      globalTeardown: '<rootDir>/apps/server/test/end.cjs',
      transform: { '/apps/server/src/.+\\.ts$': '<rootDir>/apps/server/test/built.cjs', ...common.transform },
      testMatch: ['<rootDir>/apps/server/test/**/*.test.ts'],
    },
    {
      ...common,
      displayName: 'e2e',
      testEnvironment: '<rootDir>/e2e/support/environment.cjs',
      globalSetup: '<rootDir>/e2e/support/begin.cjs',
      globalTeardown: '<rootDir>/e2e/support/end.cjs',
      testMatch: ['<rootDir>/e2e/*.test.ts'],
    },
  ],
};
