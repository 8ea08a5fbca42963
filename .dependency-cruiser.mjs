/** Dependencies point down only; see docs/architecture.md. */
const forbid = (name, comment, from, to) => ({ name, comment, severity: 'error', from, to });
const core = (room) => `^packages/core/src/${room}(/|$)`;

export default {
  forbidden: [
    forbid(
      'no-cycles',
      'a cycle has no bottom',
      {},
      { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    ),
    forbid(
      'core-knows-nothing-above',
      'app, server and cli know core; core knows none of them',
      { path: '^packages/core/' },
      { path: '^packages/(app|server|cli)/' },
    ),
    forbid(
      'core-is-pure',
      'core runs in page, worker, server and command line alike',
      { path: '^packages/core/src/' },
      { dependencyTypes: ['core'] },
    ),
    forbid(
      'core-libraries',
      'core uses few libraries at run time: validation, linear programs, outlines, triangles and letters',
      { path: '^packages/core/src/' },
      {
        path: 'node_modules',
        pathNot:
          'node_modules/(ajv|yalps|polyclip-ts|delaunator|@kninnug/constrainautor|dxf-parser|@tracespace/parser|@jscad/modeling)/',
      },
    ),
    forbid(
      'tops-do-not-mix',
      'app, server and cli do not know each other',
      { path: '^packages/(app|server|cli)/src/' },
      { path: '^packages/(app|server|cli)/', pathNot: '^packages/$1/' },
    ),
    forbid(
      'views-on-top',
      'inside the app, views stand on charts, controls, store and bridge',
      { path: '^packages/app/src/(charts|controls|store|bridge)/' },
      { path: '^packages/app/src/views/' },
    ),
    forbid(
      'numeric-is-the-floor',
      'numerics know no trade',
      { path: core('numeric') },
      { path: '^packages/core/src/', pathNot: core('numeric') },
    ),
    forbid(
      'polygons-are-a-floor',
      'outlines know nothing of what they are of',
      { path: core('polygons') },
      { path: '^packages/core/src/', pathNot: core('(polygons|numeric)') },
    ),
    forbid(
      'units-know-numerics',
      'units stand on numerics',
      { path: core('units') },
      { path: '^packages/core/src/', pathNot: core('(units|numeric)') },
    ),
    forbid(
      'section-knows-numerics',
      'the solver of cross-sections stands on numerics',
      { path: core('section') },
      { path: '^packages/core/src/', pathNot: core('(section|numeric)') },
    ),
    forbid(
      'lines-know-no-parts',
      'lines and theory stand on cross-sections and numerics',
      { path: core('(lines|theory)') },
      { path: '^packages/core/src/', pathNot: core('(lines|section|theory|numeric)') },
    ),
    forbid(
      'planar-knows-lines',
      'the planar field solution stands on lines and results',
      { path: core('planar') },
      { path: '^packages/core/src/', pathNot: core('(planar|lines|results|polygons|numeric)') },
    ),
    forbid(
      'junctions-know-the-field',
      'tables of junctions stand on the planar field solution that makes them and on what coupled lines are',
      { path: core('junctions') },
      { path: '^packages/core/src/', pathNot: core('(junctions|planar|lines|electrical|numeric)') },
    ),
    forbid(
      'junctions-are-read-without-the-field',
      'what reads a table does not bring the solver along',
      { path: core('junctions'), pathNot: 'junctions/solved' },
      { path: '^packages/core/src/(planar/|junctions/solved)' },
    ),
    forbid(
      'stack-below-network',
      'a stack is lines and units',
      { path: core('stack') },
      { path: '^packages/core/src/', pathNot: core('(stack|lines|units|numeric)') },
    ),
    forbid(
      'results-below-network',
      'results are data and numerics',
      { path: core('results') },
      { path: '^packages/core/src/', pathNot: core('(results|numeric)') },
    ),
    forbid(
      'electrical-below-parts',
      'descriptions of parts for the solution are numerics',
      { path: core('electrical') },
      { path: '^packages/core/src/', pathNot: core('(electrical|numeric)') },
    ),
    forbid(
      'parts-below-network',
      'parts know lines, theory, results and their description for the solution, not the network around them',
      { path: core('parts') },
      {
        path: '^packages/core/src/',
        pathNot: core('(parts|junctions|electrical|lines|section|theory|results|units|numeric)'),
      },
    ),
    forbid(
      'no-part-by-name',
      'parts are found through their registry: no room outside them imports a concrete part',
      { path: '^packages/(core|app|cli|server)/src/', pathNot: core('parts') },
      { path: '^packages/core/src/parts/.+/' },
    ),
    forbid(
      'network-below-recipes',
      'the network knows no recipe, no file format, no artwork and nothing that works on designs',
      { path: core('network') },
      { path: core('(recipes|formats|artwork|levels|grow|review|studies|plots)') },
    ),
    forbid(
      'artwork-and-growth-below-review',
      'artwork and growth know the network; review and studies stand on both',
      { path: core('(artwork|grow)') },
      { path: core('(recipes|formats|review|studies|plots)') },
    ),
    forbid(
      'comparing-knows-documents',
      'what differs between two states is told from documents, parts and stacks',
      { path: core('compare') },
      { path: '^packages/core/src/', pathNot: core('(compare|network|parts|stack|units)') },
    ),
    forbid(
      'candidates-on-top',
      'candidates weigh recipes by their artwork and review; nothing in core stands on them or on a comparison',
      { path: '^packages/core/src/([^/]+)/' },
      { path: core('(candidates|compare)'), pathNot: '^packages/core/src/$1/' },
    ),
    forbid(
      'levels-above-network',
      'levels are told from designs worked out and laid out, and know nothing that works on designs',
      { path: core('levels') },
      {
        path: '^packages/core/src/',
        pathNot: core('(levels|network|artwork|parts|results|polygons|numeric|planar|electrical)'),
      },
    ),
    forbid(
      'plots-below-network',
      'plots are results and units',
      { path: core('plots') },
      { path: '^packages/core/src/', pathNot: core('(plots|results|units|numeric)') },
    ),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|generated)/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
