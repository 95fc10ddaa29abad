/** The layers of docs/architecture.md: imports run one way, and core knows nothing of where it runs. */
const layer = (name, from, to, comment, not) => ({
  name,
  comment,
  severity: 'error',
  from: { path: from, pathNot: not },
  to: { path: to },
})

module.exports = {
  forbidden: [
    layer(
      'core-stands-alone',
      '^core/',
      '^(broker|client|runner|app|ui|workers|store|cli|bench|clients|e2e|scripts)/',
      'core imports nothing above it',
    ),
    {
      name: 'core-is-computation',
      comment: 'core has no interface, storage, network or Node code',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: {
        path: 'node_modules/(react|react-dom|next|@mantine|dexie|hono|@hono|echarts|@codemirror|@tanstack|zustand|jose|commander)/',
      },
    },
    {
      name: 'core-has-no-node',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    layer(
      'runner-stands-on-client-and-core',
      '^runner/',
      '^(broker|app|ui|workers|store|cli|bench)/',
      'one loop for the page’s worker, the command line and rehearsal: it knows none of them',
    ),
    layer(
      'broker-uses-core-only',
      '^broker/',
      '^(client|app|ui|workers|store|cli|clients|e2e|scripts)/',
      'the broker is a separate process: it meets the interface over HTTP',
    ),
    layer(
      'interface-meets-broker-over-http',
      '^(client|runner|app|ui|workers|store|cli)/',
      '^broker/',
      'the interface never imports the broker',
    ),
    layer(
      'client-is-fetch-only',
      '^client/',
      '^(runner|app|ui|workers|store|cli)/',
      'the one client of the API serves all of them, and knows none',
    ),
    layer('workers-are-thin', '^workers/', '^(app|ui|store|cli)/', 'workers wrap core'),
    layer('store-is-below-ui', '^store/', '^(app|ui|workers|cli)/', 'storage knows no screens'),
    layer('ui-is-below-app', '^ui/', '^(app|cli)/', 'components know no routes files'),
    layer(
      'cli-uses-core-only',
      '^cli/',
      '^(app|ui|workers|store)/',
      'the command line runs the same core, without a browser',
    ),
    {
      name: 'no-circles',
      comment: 'also not of types alone: what two files share stands in a third',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    { name: 'no-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.css', '.json'],
    },
  },
}
