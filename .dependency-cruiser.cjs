/** Who may import whom; docs/architecture.md says why. */
const test = '\\.test\\.tsx?$|/testing/|/any\\.ts$';
module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
    {
      name: 'core-imports-nothing-of-ours',
      severity: 'error',
      from: { path: '^core/', pathNot: test },
      to: { path: '^(server|app|standins|demo|e2e)/' },
    },
    { name: 'core-is-pure', severity: 'error', from: { path: '^core/', pathNot: test }, to: { dependencyTypes: ['core'] } },
    {
      name: 'core-folders-by-their-door',
      severity: 'error',
      from: { path: '^core/([^/]+)/', pathNot: test },
      to: { path: '^core/', pathNot: '^core/$1/|^core/[^/]+/index\\.ts$|/testing/' },
    },
    {
      name: 'others-enter-core-by-its-doors',
      severity: 'error',
      from: { path: '^(server|app|demo|e2e)/', pathNot: test },
      to: { path: '^core/', pathNot: '^core/[^/]+/index\\.ts$' },
    },
    { name: 'server-does-not-know-app', severity: 'error', from: { path: '^server/', pathNot: test }, to: { path: '^(app|demo|e2e|standins)/' } },
    { name: 'standins-import-neither', severity: 'error', from: { path: '^standins/', pathNot: test }, to: { path: '^(core|server|app|demo|e2e)/' } },
    {
      name: 'app-uses-server-in-routes-only',
      severity: 'error',
      from: { path: '^app/', pathNot: '^app/routes/|\\.server\\.tsx?$|^app/(root|entry\\.server)\\.tsx$' },
      to: { path: '^server/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'queries-import-no-commands',
      severity: 'error',
      from: { path: '^server/[^/]+/queries\\.ts$' },
      to: { path: '^server/[^/]+/commands\\.ts$' },
    },
    {
      name: 'runtime-imports-neither-commands-nor-queries',
      severity: 'error',
      from: { path: '^server/(runtime|steps)/', pathNot: test },
      to: { path: '^server/[^/]+/(commands|queries)\\.ts$' },
    },
    { name: 'nothing-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '^virtual:|\\+types' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\+types/' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
      mainFields: ['module', 'main', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.css'],
    },
  },
};
