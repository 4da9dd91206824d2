/**
 * The rules of the house: imports point inwards, core knows nobody, the simulated vehicle knows only core's units, gas,
 * can and obd. A new folder is inside the rules before anyone names it here; a new one of core is refused until it has a
 * place in the order.
 */
const { existsSync, readdirSync, readFileSync } = require('node:fs');
const { join } = require('node:path');

const into = (name, comment, from, to) => ({
  name,
  comment,
  severity: 'error',
  from: { path: from },
  to: { path: to },
});

/**
 * Core's folders in order, ground first: a folder imports from those before it and from none after. Folders of one line
 * may know each other as far as there is no circle.
 */
const CORE_ORDER = [
  ['units', 'time', 'gas', 'engine', 'can'],
  ['case', 'catalogue'],
  ['series'],
  ['obd'],
  ['trims', 'oxygen', 'expected', 'electrical', 'link'],
  ['recordingFiles'],
  ['capture'],
  ['diagnosis'],
  ['procedures', 'relearn', 'proof', 'readiness', 'calculators', 'job'],
  ['handOver'],
  ['standing'],
  ['shop', 'practice'],
  ['scenarios'],
];
const inCore = (folders) => `^packages/core/src/(${folders.join('|')})/`;
const coreOrder = CORE_ORDER.slice(0, -1).map((folders, i) =>
  into(
    `core-order-${folders.at(-1)}`,
    `${folders.join(', ')} know nothing of what is built on them`,
    inCore(folders),
    inCore(CORE_ORDER.slice(i + 1).flat()),
  ),
);

/** The files of the services that the server's modules export, of the tree in the folder this is called in. */
function givenServices() {
  const server = 'apps/server/src';
  if (!existsSync(server)) return [];
  const files = readdirSync(server, { recursive: true }).map((name) => join(server, name));
  const given = new Set(
    files
      .filter((file) => file.endsWith('.module.ts'))
      .flatMap((file) => (/exports:\s*\[([^\]]*)\]/.exec(readFileSync(file, 'utf8'))?.[1] ?? '').match(/\w+/g) ?? []),
  );
  return files.filter(
    (file) =>
      file.endsWith('.service.ts') &&
      [...readFileSync(file, 'utf8').matchAll(/export class (\w+)/g)].some(([, name]) => given.has(name)),
  );
}

module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    { name: 'no-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true } },
    into(
      'core-points-nowhere',
      'core imports nothing but itself',
      '^packages/core/src',
      '^(packages/(contract|vehicle)|apps)/',
    ),
    ...coreOrder,
    {
      name: 'core-folders-have-a-place',
      comment: 'a folder of core stands in the order above',
      severity: 'error',
      from: { path: '^packages/core/src/' },
      to: { path: `^packages/core/src/(?!(${CORE_ORDER.flat().join('|')})/)[^/]+/` },
    },
    ...['case', 'catalogue'].map((folder) =>
      into(
        `${folder}-stands-on-the-ground`,
        'what was measured and what is known import nothing but the ground, not even each other',
        inCore([folder]),
        `^packages/core/src/(?!(units|time|gas|engine|can|${folder})/)`,
      ),
    ),
    {
      name: 'no-circle-between-folders',
      severity: 'error',
      scope: 'folder',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-no-packages',
      comment: 'core is pure TypeScript: no npm package, no Node built-in',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { dependencyTypes: ['npm', 'npm-dev', 'npm-no-pkg', 'core', 'npm-optional', 'npm-peer'] },
    },
    into(
      'contract-points-inwards',
      'contract imports core only',
      '^packages/contract/src',
      '^(packages/vehicle|apps)/',
    ),
    {
      name: 'vehicle-knows-only-the-wire',
      comment: 'the simulated vehicle must be able to disagree with the diagnosis',
      severity: 'error',
      from: { path: '^packages/vehicle/src' },
      to: { path: '^packages/core/src/(?!(units|gas|can|obd)/)' },
    },
    into(
      'vehicle-points-inwards',
      'the vehicle imports neither contract nor apps',
      '^packages/vehicle/src',
      '^(packages/contract|apps)/',
    ),
    into(
      'server-not-web',
      'the server does not know the interface',
      '^apps/server/src',
      '^(apps/(web|cli)|packages/vehicle)/',
    ),
    into(
      'web-not-server',
      'the interface knows the contract, not the server',
      '^apps/web/src',
      '^(apps/(server|cli)|packages/vehicle)/',
    ),
    into(
      'what-is-hidden-stays-in-the-shop',
      'a practice car with its fault is never in a browser: who practises could read it there',
      '^(apps/web/src|packages/contract/src)',
      '^packages/core/src/scenarios/',
    ),
    {
      name: 'stations-are-apart',
      comment: 'what two stations share lies in job, capture, recordings or charts',
      severity: 'error',
      from: { path: '^apps/web/src/stations/([^/]+)/' },
      to: { path: '^apps/web/src/stations/', pathNot: '^apps/web/src/stations/$1/' },
    },
    into(
      'ui-and-data-know-no-station',
      'the ground of the interface knows nothing of what stands on it',
      '^apps/web/src/(?!(stations|pages|app)/)[^/]+/',
      '^apps/web/src/(stations|pages|app)/',
    ),
    into(
      'stations-know-no-page',
      'a station stands on a page and does not know which',
      '^apps/web/src/stations/',
      '^apps/web/src/(pages|app)/',
    ),
    {
      name: 'pages-are-opened-by-the-router',
      comment: 'a page imports no other page; only app opens pages',
      severity: 'error',
      from: { path: '^apps/web/src/pages/([^/]+)/' },
      to: { path: '^apps/web/src/(pages|app)/', pathNot: '^apps/web/src/pages/$1/' },
    },
    {
      name: 'server-modules-keep-their-insides',
      comment:
        'a resource imports services, modules and what is said to be shared of another, never its controller or gateway',
      severity: 'error',
      from: { path: '^apps/server/src/([^/]+)/' },
      to: { path: '\\.(controller|gateway)\\.ts$', pathNot: '^apps/server/src/$1/' },
    },
    {
      name: 'services-are-given-by-their-module',
      comment: 'a service of another module is taken only where that module exports it',
      severity: 'error',
      from: { path: '^apps/server/src/([^/]+)/' },
      to: {
        path: '^apps/server/src/[^/]+/.*\\.service\\.ts$',
        pathNot: ['^apps/server/src/$1/', ...givenServices().map((file) => `^${file.replaceAll('.', '\\.')}$`)],
      },
    },
    {
      name: 'no-deep-imports',
      comment: 'reach a sibling package through its exports; only tests may run what was built',
      severity: 'error',
      from: { path: '^(packages|apps)/[^/]+/src/' },
      to: { path: '^(packages|apps)/[^/]+/dist/' },
    },
  ],
  options: {
    parser: 'swc',
    tsPreCompilationDeps: true,
    // Not read, but seen where something imports it.
    doNotFollow: { path: ['node_modules', '^(packages|apps)/[^/]+/dist/'] },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['@just-balance/source', 'import', 'node', 'default'],
    },
    reporterOptions: {},
  },
};
