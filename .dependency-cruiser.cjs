/** Import directions: routes → lib → core; the core stands alone. */
module.exports = {
  forbidden: [
    {
      name: 'no-circular',
      severity: 'error',
      from: {},
      to: { circular: true }
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(web|cli|load|run|workload|bench)/' }
    },
    {
      name: 'core-knows-no-platform',
      severity: 'error',
      from: { path: '^core/src', pathNot: '(\\.test\\.ts$|^core/src/testing/)' },
      to: { dependencyTypes: ['core'] }
    },
    {
      name: 'lib-below-routes',
      severity: 'error',
      from: { path: '^web/src/lib' },
      to: { path: '^web/src/routes' }
    },
    {
      name: 'server-stays-on-the-server',
      severity: 'error',
      from: { path: '^web/src/lib/(ui|workers)' },
      to: { path: '^web/src/lib/server', dependencyTypesNot: ['type-only'] }
    },
    {
      name: 'packages-apart',
      severity: 'error',
      from: { path: '^(collect|load|run|workload)/' },
      to: { path: '^(web|cli)/' }
    },
    { name: 'load-stands-alone', severity: 'error', from: { path: '^load/' }, to: { path: '^workload/' } },
    {
      name: 'no-unresolvable',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '^(\\$app|\\$lib|\\./\\$types|.*\\?(nodeworker|browserscript))' }
    }
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(\\.svelte-kit|/build/)' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.imports.json' },
    enhancedResolveOptions: {
      extensions: ['.ts', '.js', '.mjs', '.svelte', '.d.ts'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types']
    }
  }
};
