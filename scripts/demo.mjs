// Solves the copper of the demo's designs again, and the pieces that stand on solved data, and writes what comes of it into the demo
// file: `node scripts/demo.mjs`. Needed when the field solution or one of these designs has changed; a test says so.
import { readFileSync, writeFileSync } from 'node:fs';
import { builtCore } from './bundle.mjs';

const SOLVED = ['lo-divider', 'hybrid', 'stop-filter'];
/** Pieces solved over their sizes, as far as tolerances and the family take them. */
const BACKED = [
  {
    design: 'hybrid',
    data: { id: 'hybrid-tees', name: 'tees of the hybrid' },
    ids: ['tee1'],
    ranges: [
      { key: 'tee1.w1', from: 1.22e-3, to: 1.33e-3 },
      { key: 'tee1.w2', from: 2.0e-3, to: 2.3e-3 },
      { key: 'tee1.w3', from: 1.3e-3, to: 1.6e-3 },
      { key: 'er', from: 2.84, to: 3.04 },
      { key: 'height', from: 0.48e-3, to: 0.536e-3 },
    ],
  },
];
const file = new URL('../examples/ditchwater.ditch.json', import.meta.url);
const url = await builtCore(
  'demo-core',
  `export * from '@ditch/core/network'; export * from '@ditch/core/formats'; export * from '@ditch/core/planar'; export { layOut } from '@ditch/core/artwork'; export { solvedSubject } from '@ditch/core/levels'; export { drive } from '@ditch/core/numeric'; export { backingSteps } from '@ditch/core/studies/solved'; export { provideTables } from '@ditch/core/junctions'; export { junctionTables } from '@ditch/core/junctions/tables';`,
);
const core = await import(url);
core.provideTables(core.junctionTables);
let { project } = core.readProjectFile(readFileSync(file, 'utf8'));
for (const { design: id, data, ids, ranges } of BACKED) {
  const { block, backed, solves } = core.drive(
    core.backingSteps(
      project,
      project.designs.find((d) => d.id === id),
      { ids, ranges },
    ),
  );
  console.log(`${data.name}: ${solves} solutions, within ${block.over.error}`);
  project = core.standOn(
    { ...project, data: project.data.filter((d) => d.id !== data.id) },
    id,
    { ...block, ...data },
    backed.map((b) => ({ ...b, data: data.id })),
  );
}
const solutions = SOLVED.map((id) => {
  const design = project.designs.find((d) => d.id === id);
  const resolved = core.resolveDesign(project, design);
  const { copper } = core.solvedSubject(resolved, core.layOut(resolved));
  const { start, stop } = resolved.sweep;
  const from = performance.now();
  const freq = core.frequencies(start, stop, 401);
  const taken = [];
  const solution = core.drive(
    core.solveSteps(copper, freq, { watch: (_, { samples }) => taken.splice(0, Infinity, ...samples) }),
  );
  const seconds = (performance.now() - from) / 1000;
  const { unknowns, ports, resonances, warnings, error } = solution;
  console.log(
    `${design.name}: ${unknowns} unknowns, ${taken.length} frequencies, ${seconds.toFixed(1)} s, within ${error.toExponential(1)}`,
  );
  return {
    copper,
    accuracy: 'normal',
    start,
    stop,
    samples: taken,
    error,
    complete: true,
    unknowns,
    seconds,
    ports,
    resonances,
    warnings,
    solver: core.SOLVER,
  };
});
writeFileSync(file, core.writeProject(project, solutions));
