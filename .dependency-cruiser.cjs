/**
 * The one rule of the house: a file imports only from folders above its own in these lists, and across
 * packages only through core's named entry points. Checked by `npm run check:imports`.
 */
const order = {
  core: [
    'kernel',
    'math',
    'model',
    'character',
    'curves',
    'formats',
    'solver',
    'shot',
    'parts',
    'simulate',
    'measure',
    'refine',
    'bake',
    'handoff',
    'contract',
  ],
  server: ['config', 'errors', 'db', 'repos', 'queue', 'usecases', 'work', 'middleware', 'routes', 'app'],
  web: ['api', 'state', 'sim', 'stage', 'tools', 'ui', 'app'],
};
const DOCUMENTS =
  '^core/src/parts/(documents|[a-z]+/(document|groom|panelDocument|panelRules|settings|presets|inert|limits|linked|overlapShape|rules|shared))\\.ts$';
const upward = Object.entries(order).flatMap(([pkg, folders]) =>
  folders.map((folder, i) => ({
    name: `${pkg}-${folder}-imports-upward`,
    severity: 'error',
    from: { path: `^${pkg}/src/${folder}(/|\\.ts)`, pathNot: '\\.test\\.tsx?$' },
    to: {
      path: `^${pkg}/src/(${folders.slice(i + 1).join('|') || 'nothing-after-the-last'})(/|\\.ts)`,
      // The documents of the kinds of part stand above the shot, which is their union; what runs them below it.
      ...(folder === 'shot' ? { pathNot: DOCUMENTS } : {}),
    },
  })),
);
module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(server|web|cli|demo|e2e)/' },
    },
    {
      name: 'web-not-server',
      severity: 'error',
      from: { path: '^web/' },
      to: { path: '^(server|cli)/' },
    },
    {
      name: 'web-ships-without-the-demo',
      severity: 'error',
      from: { path: '^web/', pathNot: '\\.test\\.tsx?$' },
      to: { path: '^demo/' },
    },
    { name: 'server-not-web', severity: 'error', from: { path: '^server/' }, to: { path: '^(web|cli)/' } },
    {
      name: 'core-only-by-name',
      severity: 'error',
      from: { pathNot: '^core/' },
      to: {
        path: '^core/',
        pathNot:
          '^core/(src/[a-z]+/index\\.ts|src/formats/[a-z]+/index\\.ts|src/parts/[a-z]+/shared\\.ts|truth/main\\.ts)$',
      },
    },
    {
      name: 'only-sim-runs-the-solver',
      severity: 'error',
      from: { path: '^web/src/(?!sim/)' },
      to: { path: '^core/src/(solver|parts)/', pathNot: '^core/src/parts/[a-z]+/shared\\.ts$' },
    },
    {
      name: 'kit-knows-no-room',
      severity: 'error',
      from: { path: '^web/src/ui/kit/' },
      to: { path: '^web/src/(ui/(desk|parts|rooms)|app)/' },
    },
    {
      name: 'desk-and-kinds-know-no-room',
      severity: 'error',
      from: { path: '^web/src/ui/(desk|parts)/' },
      to: { path: '^web/src/(ui/rooms|app)/' },
    },
    {
      name: 'rooms-do-not-import-each-other',
      severity: 'error',
      from: { path: '^web/src/ui/rooms/([a-z]+)/' },
      to: { path: '^web/src/ui/rooms/', pathNot: '^web/src/ui/rooms/$1/' },
    },
    {
      name: 'kinds-only-through-their-registry',
      severity: 'error',
      from: { path: '^web/src/', pathNot: '(^web/src/(state|stage|ui)/parts/|\\.test\\.tsx?$)' },
      to: { path: '^web/src/(state|stage|ui)/parts/[a-z]+/' },
    },
    {
      name: 'kinds-do-not-know-each-other',
      severity: 'error',
      from: { path: '^web/src/(?:state|stage|ui)/parts/([a-z]+)/' },
      to: {
        path: '^web/src/(state|stage|ui)/parts/[a-z]+/',
        pathNot: '^web/src/(state|stage|ui)/parts/$1/',
      },
    },
    {
      name: 'no-unresolved',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '\\?(url|worker)' },
    },
    ...upward,
    {
      name: 'documents-import-the-model-only',
      severity: 'error',
      from: { path: DOCUMENTS },
      to: { path: '^core/src/', pathNot: `(^core/src/model/|${DOCUMENTS})` },
    },
    {
      name: 'kinds-do-not-import-each-other',
      severity: 'error',
      from: { path: '^core/src/parts/([a-z]+)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^core/src/parts/[a-z]+/', pathNot: '^core/src/parts/$1/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|out|node_modules)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json', '.css', '.wasm'],
    },
  },
};
