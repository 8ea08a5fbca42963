// Solves the copper of the demo's designs again and writes what comes of it into the demo file: `node scripts/demo.mjs`.
// Needed when the field solution or one of these designs has changed; a test says so.
import { readFileSync, writeFileSync } from 'node:fs';
import { builtCore } from './bundle.mjs';

const SOLVED = ['lo-divider', 'hybrid', 'stop-filter'];
const file = new URL('../examples/ditchwater.ditch.json', import.meta.url);
const url = await builtCore(
  'demo-core',
  `export * from '@ditch/core/network'; export * from '@ditch/core/formats'; export * from '@ditch/core/planar'; export { layOut } from '@ditch/core/artwork'; export { solvedSubject } from '@ditch/core/levels'; export { drive } from '@ditch/core/numeric';`,
);
const core = await import(url);
const { project } = core.readProjectFile(readFileSync(file, 'utf8'));
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
