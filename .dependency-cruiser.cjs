/** Layers of docs/architecture.md: each folder may import only from those above it. */
const layer = (name, from, ...forbidden) => ({
  name,
  severity: 'error',
  from: { path: from },
  to: { path: forbidden },
});

module.exports = {
  forbidden: [
    // What is fetched when it is first looked at knows those who fetch it.
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['dynamic-import'] } },
    },
    {
      name: 'no-folder-circles-in-core',
      severity: 'error',
      scope: 'folder',
      from: { path: '^src/core' },
      to: { circular: true },
    },
    layer(
      'core-is-pure',
      '^src/core/(?!.*\\.test\\.ts$)',
      '^src/(?!core/)',
      '^node_modules/(react|react-dom|knex|pg|execa|pino|astro|graphile-worker)/',
    ),
    {
      name: 'core-has-no-node',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    layer('server-stands-on-core', '^src/server/', '^src/(pages|features|ui|workers|cli)/', '^node_modules/(react|react-dom)/'),
    layer('features-stand-on-core-and-ui', '^src/features/', '^src/(server|pages|cli)/'),
    layer('ui-knows-no-domain', '^src/ui/', '^src/(?!ui/)'),
    layer('workers-are-adapters', '^src/workers/', '^src/(pages|features|ui|cli)/'),
    layer(
      'cli-is-headless',
      '^src/cli/(?!keep)',
      '^src/(pages|features|ui|workers)/',
      '^src/server/(?!media/|refusal|keeping/copy)',
    ),
    layer('pages-hold-no-logic', '^src/pages/', '^src/(workers|cli)/'),
    {
      name: 'trays-do-not-know-each-other',
      severity: 'error',
      from: { path: '^src/features/(pauses|words|handoff|docket)/' },
      to: { path: '^src/features/(pauses|words|handoff|docket)/', pathNot: '^src/features/$1/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    // Tests may look anywhere.
    exclude: { path: '\\.test(-help)?\\.ts$' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'default'] },
  },
};
