/** Who may import whom; see docs/architecture.md. */
const ours = (names) => `^packages/(${names})/`;
module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, dependencyTypesNot: ['type-only'] } },
    {
      name: 'core-imports-nothing-of-ours',
      severity: 'error',
      from: { path: ours('core') },
      to: { path: ours('contract|server|bench|web|cli') },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: ours('core'), pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'contract-imports-core',
      severity: 'error',
      from: { path: ours('contract') },
      to: { path: ours('server|bench|web|cli') },
    },
    {
      name: 'server-imports-contract-and-core',
      severity: 'error',
      from: { path: ours('server'), pathNot: '\\.test\\.ts$|/testing/' },
      to: { path: ours('bench|web|cli') },
    },
    {
      name: 'bench-imports-core',
      severity: 'error',
      from: { path: ours('bench') },
      to: { path: ours('contract|server|web|cli') },
    },
    {
      name: 'web-imports-contract-and-core',
      severity: 'error',
      from: { path: ours('web') },
      to: { path: ours('server|bench|cli') },
    },
    {
      name: 'web-parts-know-no-app',
      severity: 'error',
      from: { path: '^packages/web/src/parts/' },
      to: { path: '^packages/web/src/(app|pages)/' },
    },
    {
      name: 'web-app-knows-pages-by-routes-only',
      severity: 'error',
      from: { path: '^packages/web/src/app/', pathNot: 'routes\\.tsx$|Sheet\\.tsx$' },
      to: { path: '^packages/web/src/pages/' },
    },
    {
      name: 'cli-imports-core',
      severity: 'error',
      from: { path: ours('cli') },
      to: { path: ours('contract|server|bench|web') },
    },
    {
      name: 'no-test-code-in-the-product',
      severity: 'error',
      from: { path: '^packages/', pathNot: '\\.test\\.tsx?$|/testing/' },
      to: { path: '\\.test\\.tsx?$|/testing/' },
    },
    {
      name: 'sql-stays-in-the-store',
      severity: 'error',
      from: { path: '^packages/server/src/(?!store/)', pathNot: '\\.test\\.ts$|/testing/' },
      to: { path: 'node_modules/(kysely|better-sqlite3)' },
    },
    {
      name: 'store-knows-nobody',
      severity: 'error',
      from: { path: '^packages/server/src/store/', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/server/src/(?!store/|trouble\\.ts|release\\.ts)' },
    },
    {
      name: 'workers-only-read',
      severity: 'error',
      from: { path: '^packages/server/src/workers/' },
      to: { path: '^packages/server/src/(services|jobs|http|reach|events|seed)/' },
    },
    {
      name: 'services-know-no-http',
      severity: 'error',
      from: { path: '^packages/server/src/(services|jobs|workers|reach|events)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/server/src/(http|seed)/|node_modules/express' },
    },
    {
      name: 'jobs-use-services-not-the-other-way',
      severity: 'error',
      from: { path: '^packages/server/src/services/', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/server/src/jobs/' },
    },
    {
      name: 'numbers-stand-alone',
      severity: 'error',
      from: { path: '^packages/core/src/numbers' },
      to: { path: '^packages/core/src/(?!numbers)' },
    },
    {
      name: 'network-knows-no-intent',
      severity: 'error',
      from: { path: '^packages/core/src/network', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/core/src/(intent|layout|pools|patterns|proof|rollout|compile)' },
    },
    {
      name: 'rules-judge-networks-only',
      severity: 'error',
      from: { path: '^packages/core/src/proof/rules', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/core/src/(intent|layout|pools|patterns|compile)' },
    },
    {
      name: 'config-knows-no-dialect',
      severity: 'error',
      from: { path: '^packages/core/src/(config|layout|pools|intent|patterns)' },
      to: { path: '^packages/core/src/(dialects|network|proof|compile)' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: 'node_modules|dist' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import'] },
  },
};
