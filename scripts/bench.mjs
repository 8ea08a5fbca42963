// Medians of what the interface promises: analysis, synthesis, a network, start of the command line, first paint,
// frames while a value is dragged. Figures, not tests: nothing here fails.
import { spawnSync } from 'node:child_process';
import { Worker } from 'node:worker_threads';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import { openBrowser } from './browser.mjs';
import { builtCore } from './bundle.mjs';
import { setup } from './setup.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
await setup();

const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
const report = (name, value, unit, limit) =>
  process.stdout.write(
    `${name.padEnd(58)} ${value.toFixed(value < 10 ? 2 : 0).padStart(8)} ${unit.padEnd(3)}${limit ? `  (at most ${limit} ${unit})` : ''}\n`,
  );

/**
 * A page that never changes, stepped by the arrow keys as designs are: a list of 60 numbers, twelve curves of 400 points,
 * 60 outlines. Its cost says how dear pages are on this machine just now, which a calculation in a register does not.
 */
const FIXED_PAGE = `<!doctype html><style>li { display: grid; grid-template-columns: 1fr 1fr; font: 13px sans-serif }</style>
<input aria-label="value fixed" autofocus>
<ul style="columns: 2">${'<li><span>piece</span><b></b></li>'.repeat(60)}</ul>
<svg role="application" width="600" height="400" fill="none" stroke="black">${'<path/>'.repeat(72)}</svg>
<script>
  let step = 0;
  const input = document.querySelector('input');
  const cells = document.querySelectorAll('b');
  const paths = document.querySelectorAll('path');
  input.onkeydown = () => {
    step += 1;
    input.value = (10 + step / 1000).toFixed(3) + ' GHz';
    cells.forEach((cell, i) => (cell.textContent = (i + step / 100).toFixed(3)));
    paths.forEach((path, i) => {
      let d = '';
      if (i < 12)
        for (let x = 0; x < 400; x++)
          d += (x ? 'L' : 'M') + (x * 1.5) + ' ' + (200 + 190 * Math.sin((x * (i + 1)) / 50 + step / 10)).toFixed(1);
      else d = 'M' + i * 8 + ' ' + ((step + i) % 90) + 'h6v40h-6z';
      path.setAttribute('d', d);
    });
  };
</script>`;

/** A calculation that never changes: what it takes tells how quick the machine is at the moment. */
const FIXED = `(() => {
  let best = Infinity;
  for (let run = 0; run < 5; run++) {
    const start = performance.now();
    let x = 0;
    for (let i = 0; i < 4e6; i++) x += Math.sqrt(i) * Math.sin(i);
    best = Math.min(best, x === 1 ? 0 : performance.now() - start);
  }
  return best;
})()`;
const fixed = (where) => report(`a fixed calculation, ${where}`, (0, eval)(FIXED), 'ms');

/** Median time of one call in milliseconds; each sample runs `inner` calls. */
function time(f, inner = 1, samples = 60) {
  for (let i = 0; i < inner * 10; i++) f(i);
  const list = [];
  for (let s = 0; s < samples; s++) {
    const t = performance.now();
    for (let i = 0; i < inner; i++) f(i);
    list.push((performance.now() - t) / inner);
  }
  return median(list);
}

const url = await builtCore(
  'bench-core',
  `export * from '@ditch/core/lines'; export * from '@ditch/core/network'; export { readProject, writeProject } from '@ditch/core/formats'; export * from '@ditch/core/recipes'; export { review } from '@ditch/core/review'; export { layOut } from '@ditch/core/artwork'; export { retune, limitSteps, spreadSteps } from '@ditch/core/studies'; export { solveStrip, solvePair, solveSlots } from '@ditch/core/section'; export { prepareSteps, solveSteps } from '@ditch/core/planar'; export { solvedSubject } from '@ditch/core/levels'; export { denseOf } from './src/planar/dense'; export { drive } from '@ditch/core/numeric'; export { madeOf, checkPlan, limitsFor } from '@ditch/core/making';`,
);
const core = await import(url);

const board = {
  er: 2.94,
  tand: 0.0012,
  height: 0.508e-3,
  thickness: 18e-6,
  conductivity: 5.8e7,
  roughness: 0.5e-6,
  cover: Infinity,
};
report(
  'analysis of a dispersive lossy microstrip',
  time((i) => core.analyseLine('microstrip', board, 1e-3 + i * 1e-8, 10e9), 2000) * 1000,
  'us',
  5,
);
// Lines under a lid are remembered: each is a new one here.
let fresh = 0;
report(
  'analysis under a lid',
  time(() => core.analyseLine('microstrip', { ...board, cover: 2e-3 }, 1e-3 + ++fresh * 1e-8, 10e9), 20) *
    1000,
  'us',
);
// What a board asks for when a width on it is first wanted, and one cross-section of each kind solved directly.
report(
  'the first line on a board, its tables with it',
  time(() => core.analyseLine('microstrip', { ...board, er: 2.5 + ++fresh * 1e-4 }, 1e-3, 10e9), 1, 20),
  'ms',
);
const filled = [
  { below: 2.94, above: 1 },
  { below: 1, above: 1 },
];
const around = { ground: 1, cover: Infinity };
for (const [what, t, limit] of [
  ['thin', 0, 3],
  ['thick', 0.035, 3],
]) {
  report(
    `a ${what} strip solved, air and filled`,
    time(() => core.solveStrip(2 + ++fresh * 1e-5, t, around, filled), 5, 20),
    'ms',
    limit,
  );
  report(
    `a ${what} pair solved, both modes, air and filled`,
    time(() => core.solvePair(1.5, 0.1 + ++fresh * 1e-6, t, around, filled), 2, 20),
    'ms',
    8,
  );
  report(
    `a ${what} coplanar line solved`,
    time(
      () =>
        core.solveSlots(
          1,
          0.2 + ++fresh * 1e-6,
          t,
          { height: 1, grounded: true, cover: Infinity },
          [2.94, 1],
        ),
      3,
      20,
    ),
    'ms',
    3,
  );
}
report(
  'synthesis',
  time((i) => core.synthesiseWidth('microstrip', board, 40 + i * 0.01, 10e9), 500) * 1000,
  'us',
  100,
);
report(
  'synthesis under a lid',
  time(
    () => core.synthesiseWidth('microstrip', { ...board, cover: 2e-3 }, 40 + ++fresh * 1e-3, 10e9),
    5,
    20,
  ) * 1000,
  'us',
);

/** A chain of lines as a circuit of the modelled model; each time its lines are a little longer, and one a little wider. */
let turn = 0;
const chain = (n) => ({
  model: 'modelled',
  medium: 'microstrip',
  substrate: board,
  f0: 10e9,
  pieces: [
    ...Array.from({ length: n }, (_, i) => ({
      kind: 'line',
      nodes: [`n${i}`, `n${i + 1}`],
      settings: {},
      facts: {},
      values: {
        width: { re: 1e-3 + i * 1e-5 + (i === 0 ? turn * 1e-9 : 0), im: 0 },
        length: { re: 4e-3 + ++turn * 1e-9, im: 0 },
      },
    })),
    core.portPiece('n0', { re: 50, im: 0 }, 1),
    core.portPiece(`n${n}`, { re: 50, im: 0 }, 2),
  ],
});
const sweep = core.frequencies(5e9, 15e9, 401);
fixed('before');
for (const [n, limit] of [[6, 1], [14], [60], [200]])
  report(
    `401 points of a two-port of ${n} lines, from circuit to S`,
    time(() => core.simulate(chain(n), sweep, () => undefined), 1, n > 50 ? 12 : 60),
    'ms',
    limit,
  );

const demo = core.readProject(readFileSync(join(root, 'examples/ditchwater.ditch.json'), 'utf8'));

/** A design by a recipe on the demo's first board. */
const made = (id, inputs = {}) => {
  const recipe = core.recipes.get(id);
  const context = { stack: demo.stacks[0], medium: 'microstrip', newId: core.newId, data: [] };
  const design = recipe.design({ ...core.initialInputs(recipe), ...inputs }, context);
  return { project: { ...demo, designs: [design] }, design };
};
/** The same with its first movable line a little longer. */
const longer = (design, id, i) => ({
  ...design,
  pieces: design.pieces.map((p) =>
    p.id === id ? { ...p, held: { ...p.held, trim: `${0.1 + i * 1e-5} mm` } } : p,
  ),
});
const hybrid = made('branch-line');
report(
  `branch-line with tees, ${hybrid.design.pieces.length} pieces: changed length to S, modelled`,
  time((i) => {
    const resolved = core.resolveDesign(hybrid.project, longer(hybrid.design, 'through12', i));
    core.simulate(core.circuitOf(resolved, 'modelled'), sweep, () => undefined);
  }),
  'ms',
  12,
);
{
  const what = { panel: demo.panels[0].id };
  let plan;
  const made = time(() => (plan = core.madeOf(demo, what).plan), 1, 8);
  report('panel of five designs with letters, to its plan', made, 'ms');
  const limits = core.limitsFor(demo, what);
  report(
    'the same checked',
    time(() => core.checkPlan(plan, limits), 1, 8),
    'ms',
  );
}
/** A program of its own in each of two workers, both at once; gives what each tells. */
const inTwo = (body) => {
  const one = () =>
    new Promise((resolve, reject) => {
      const worker = new Worker(
        new URL(
          `data:text/javascript,${encodeURIComponent(`
            import { parentPort } from 'node:worker_threads';
            import { readFileSync } from 'node:fs';
            const core = await import(${JSON.stringify(url)});
            const demo = core.readProject(readFileSync(${JSON.stringify(join(root, 'examples/ditchwater.ditch.json'))}, 'utf8'));
            ${body}`)}`,
        ),
      );
      worker.once('message', resolve);
      worker.once('error', reject);
    });
  return Promise.all([one(), one()]);
};
{
  // As they come out of the shop; half of them in each of two workers that have drawn the design, then once more from another seed.
  const times = await inTwo(`
    const design = demo.designs.find((d) => d.id === 'hybrid');
    const circuit = core.circuitOf(core.resolveDesign(demo, design), 'modelled');
    for (let i = 0; i < 5; i++) core.simulate(circuit, core.frequencies(5e9, 15e9, 401), core.dataFinder(demo.data));
    const run = (seed) => {
      const begun = performance.now();
      core.drive(core.spreadSteps(demo, design, { samples: 500, points: 201, seed, noCauses: true }));
      return (performance.now() - begun) / 1000;
    };
    parentPort.postMessage([run(1), run(2)]);
  `);
  const what = '1000 samples of the demo hybrid at 201 points, two cores';
  report(what, Math.max(...times.map(([first]) => first)), 's', 2);
  report('the same from another seed', Math.max(...times.map(([, again]) => again)), 's', 2);
}
/** States of a design that a search tries in a second on two cores: lengths and widths changed to |S| at 101 points. */
async function evaluations() {
  const rates = await inTwo(`
    const recipe = core.recipes.get('lowpass-stepped');
    const made = recipe.design(
      { ...core.initialInputs(recipe), order: '7', freq: '2 GHz' },
      { stack: demo.stacks[0], medium: 'microstrip', newId: core.newId, data: [] },
    );
    // Of a third of the sweep each, so that every one of its points is looked at.
    const limit = (id, side, level, from, to) => ({ id, side, level, from, to, curves: ['S21'] });
    const limits = [
      limit('a', 'above', '-0.05', '20 MHz', '1.34 GHz'),
      limit('b', 'above', '-0.05', '1.35 GHz', '2.3 GHz'),
      limit('c', 'below', '-60', '2.6 GHz', '4 GHz'),
    ];
    const design = {
      ...made,
      sweep: { start: '20 MHz', stop: '4 GHz', points: 101 },
      plots: [{ id: 'p', show: 'driven', limits }],
    };
    const project = { ...demo, designs: [design] };
    let states = 0;
    let from = 0;
    const begun = performance.now();
    const steps = core.limitSteps(project, design, {
      seed: 1,
      watch: (s) => {
        states = s.evaluations;
        if (performance.now() - begun < 1500) from = states;
      },
      enough: () => performance.now() - begun > 4500,
    });
    while (!steps.next().done);
    parentPort.postMessage((states - from) / 3);
  `);
  return rates[0] + rates[1];
}
report('states of a 7-section low-pass searched in a second, 101 points, two cores', await evaluations(), '');

/** A stub on a line in a box, the whole sweep by the field solution. */
{
  const port = (number, x) => ({
    number,
    edge: [
      [x, 2.6e-3],
      [x, 4.33e-3],
    ],
    plane: 3.9e-3,
    z0: 50,
  });
  const rect = (x0, y0, x1, y1) => [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ];
  const copper = {
    layers: { below: { er: 3.52, tand: 0, height: 0.77e-3 }, above: { er: 1, tand: 0, height: 5.3e-3 } },
    metal: { conductivity: Infinity, thickness: 0, roughness: 0 },
    polygons: [rect(0, 2.6e-3, 12.56e-3, 4.33e-3), rect(5.63e-3, 4.33e-3, 6.93e-3, 12.1e-3)],
    ports: [port(1, 0), port(2, 12.56e-3)],
    walls: { x0: 0, x1: 12.56e-3, y0: 0, y1: 14.3e-3 },
  };
  const freq = core.frequencies(1e9, 7e9, 201);
  report(
    'copper of a stub on a line solved, 201 points',
    time(() => core.drive(core.solveSteps(copper, freq)), 1, 3),
    'ms',
  );
  // Two stubs that differ, in the open, with loss: no symmetry and no walls help. On one core; the page has two.
  const stubs = {
    ...copper,
    layers: {
      below: { er: 3.52, tand: 0.0015, height: 0.77e-3 },
      above: { er: 1, tand: 0, height: Infinity },
    },
    metal: { conductivity: 5.8e7, thickness: 18e-6, roughness: 0 },
    polygons: [
      rect(0, 2.6e-3, 20e-3, 4.33e-3),
      rect(8e-3, 4.33e-3, 9.3e-3, 12.1e-3),
      rect(11e-3, 4.33e-3, 12.1e-3, 10.4e-3),
    ],
    ports: [port(1, 0), { ...port(2, 20e-3), plane: 3.9e-3 }],
    walls: undefined,
  };
  const firsts = [];
  const whole = time(
    () => {
      const begun = performance.now();
      let isFirst = true;
      const watch = () => {
        if (isFirst) firsts.push(performance.now() - begun);
        isFirst = false;
      };
      core.drive(core.solveSteps(stubs, freq, { watch }));
    },
    1,
    5,
  );
  report('two unlike stubs on a line solved, open: first curve', median(firsts.slice(-5)), 'ms', 500);
  report('the same, whole sweep with its error, one core', whole, 'ms', 1500);
  const n = 1000;
  const solve = (how) => {
    const m = core.denseOf(n, true);
    for (let i = 0; i < n; i++)
      for (let j = i; j < n; j++) {
        m.re[i * n + j] = m.re[j * n + i] = Math.sin(i * j + i + j);
        m.im[i * n + j] = m.im[j * n + i] = Math.cos(3 * i * j) + (i === j ? 40 : 0);
      }
    const sides = [0, 1].map((p) => Float64Array.from({ length: 4 * n }, (_, i) => Math.cos(i + p)));
    const start = performance.now();
    m[how]().solve(4, ...sides);
    return performance.now() - start;
  };
  // A tuned library on one core of such a machine (28 GFlop/s) takes 98 ms for either.
  for (const [how, what] of [
    ['factorise', 'a complex system of order 1000 solved for four sides'],
    ['factoriseSymmetric', 'the same, symmetric, as copper with loss is'],
  ]) {
    solve(how);
    report(what, Math.min(solve(how), solve(how)), 'ms', how === 'factoriseSymmetric' ? 147 : undefined);
  }
  for (const id of ['hybrid', 'telemetry-filter']) {
    const design = demo.designs.find((d) => d.id === id);
    const resolved = core.resolveDesign(demo, design);
    const { copper: own } = core.solvedSubject(resolved, core.layOut(resolved));
    const { start, stop } = resolved.sweep;
    const from = performance.now();
    const prepared = core.drive(core.prepareSteps(own, { start, stop }, 'normal'));
    report(`demo ${id}: copper of ${prepared.unknowns} unknowns prepared`, performance.now() - from, 'ms');
    let at = start;
    const each = time(() => prepared.at((at += (stop - start) / 20)), 2, 3);
    report(`demo ${id}: one frequency of it, one core`, each, 'ms');
  }
}

/** A comb of stubs: `n` parts in all, of lines, tees and stubs. */
const comb = (n) => {
  const pieces = [
    {
      id: 'port1',
      name: 'port 1',
      kind: 'port',
      held: { z: '50 ohm' },
      settings: { number: '1' },
      nodes: ['a0'],
    },
  ];
  const cells = Math.floor((n - 2) / 3);
  for (let i = 0; i < cells; i++)
    pieces.push(
      {
        id: `l${i}`,
        name: `line ${i}`,
        kind: 'line',
        held: { z0: `${50 + (i % 7)} ohm`, theta: '40 deg' },
        nodes: [`a${i}`, `b${i}`],
      },
      { id: `t${i}`, name: `tee ${i}`, kind: 'tee', held: {}, nodes: [`b${i}`, `a${i + 1}`, `s${i}`] },
      {
        id: `s${i}`,
        name: `stub ${i}`,
        kind: 'open-stub',
        held: { z0: `${60 + (i % 5)} ohm`, theta: '30 deg' },
        nodes: [`s${i}`],
      },
    );
  pieces.push({
    id: 'port2',
    name: 'port 2',
    kind: 'port',
    held: { z: '50 ohm' },
    settings: { number: '2' },
    nodes: [`a${cells}`],
  });
  return { ...hybrid.design, values: hybrid.design.values.slice(0, 1), pieces };
};
for (const [n, limit] of [[60, 60], [200]]) {
  const design = comb(n);
  const project = { ...demo, designs: [design] };
  report(
    `a comb of ${n} parts: changed length to S, modelled`,
    time(
      (i) => {
        const resolved = core.resolveDesign(project, longer(design, 'l3', i));
        core.simulate(core.circuitOf(resolved, 'modelled'), sweep, () => undefined);
      },
      1,
      10,
    ),
    'ms',
    limit,
  );
  report(
    `the same worked out, laid out and reviewed`,
    time(
      (i) => {
        const d = longer(design, 'l3', i);
        const resolved = core.resolveDesign(project, d);
        core.review(project, d, resolved, core.layOut(resolved));
      },
      1,
      10,
    ),
    'ms',
  );
}
/** Twelve coupled pairs, each with its two open ends and the lines about it: 60 parts and two ports. */
const coupled = (() => {
  const ends = [1, 2].map((n) => ({
    id: `port${n}`,
    name: `port ${n}`,
    kind: 'port',
    held: { z: '50 ohm' },
    settings: { number: String(n) },
    nodes: [n === 1 ? 'a0' : 'a12'],
  }));
  const cells = Array.from({ length: 12 }, (_, i) => [
    {
      id: `l${i}`,
      name: `line ${i}`,
      kind: 'line',
      held: { z0: '50 ohm', theta: '20 deg' },
      nodes: [`a${i}`, `b${i}`],
    },
    {
      id: `p${i}`,
      name: `pair ${i}`,
      kind: 'line-pair',
      held: { width: `${1 + i * 0.01} mm`, gap: `${0.2 + i * 0.01} mm`, theta: '90 deg' },
      nodes: [`b${i}`, `o${i}`, `q${i}`, `c${i}`],
    },
    ...['o', 'q'].map((at) => ({
      id: `${at}e${i}`,
      name: `end ${at}${i}`,
      kind: 'open-end',
      held: {},
      nodes: [`${at}${i}`],
    })),
    {
      id: `m${i}`,
      name: `line m${i}`,
      kind: 'line',
      held: { z0: '50 ohm', theta: '20 deg' },
      nodes: [`c${i}`, `a${i + 1}`],
    },
  ]);
  return {
    ...hybrid.design,
    values: hybrid.design.values.slice(0, 1),
    pieces: [ends[0], ...cells.flat(), ends[1]],
  };
})();
const narrower = (i) => ({
  ...coupled,
  pieces: coupled.pieces.map((p) =>
    p.id === 'p3' ? { ...p, held: { ...p.held, gap: `${0.15 + (i % 400) * 1e-4} mm` } } : p,
  ),
});
const pairs = { ...demo, designs: [coupled] };
report(
  '60 parts with 12 pairs, a gap dragged: to S, modelled',
  time(
    (i) => {
      const resolved = core.resolveDesign(pairs, narrower(i));
      core.simulate(core.circuitOf(resolved, 'modelled'), sweep, () => undefined);
    },
    1,
    24,
  ),
  'ms',
);
report(
  'the same worked out, laid out and reviewed (what the page does)',
  time(
    (i) => {
      const d = narrower(i);
      const resolved = core.resolveDesign(pairs, d);
      core.review(pairs, d, resolved, core.layOut(resolved));
    },
    1,
    24,
  ),
  'ms',
  16,
);
for (const [id, inputs] of [
  ['branch-line', {}],
  ['wilkinson', { sections: '3' }],
  ['branch-line', { sections: '2' }],
]) {
  const { project, design } = made(id, inputs);
  report(
    `retune ${id} ${inputs.sections ?? ''}`,
    time(() => core.retune(project, design), 1, 3),
    'ms',
    2000,
  );
}
report(
  'a three-section design worked out (values, widths, review)',
  time(() => core.review(demo, demo.designs[2], core.resolveDesign(demo, demo.designs[2])), 5) * 1000,
  'us',
);

fixed('after');

const cli = Array.from({ length: 7 }, () => {
  const t = performance.now();
  spawnSync(
    process.execPath,
    [
      'packages/cli/bin/ditch.js',
      'line',
      'microstrip',
      '--er',
      '2.94',
      '--height',
      '0.5mm',
      '--freq',
      '10GHz',
      '--z0',
      '50ohm',
      '--theta',
      '90deg',
      '--json',
    ],
    { cwd: root },
  );
  return performance.now() - t;
});
report('ditch line, process start to end', median(cli), 'ms');

// What the first page loads: the entry and all it imports, as sent.
const assets = join(root, 'packages/app/dist/assets');
const html = readFileSync(join(root, 'packages/app/dist/index.html'), 'utf8');
const initial = [...html.matchAll(/(?:src|href)="\/assets\/([^"]+\.js)"/g)].map((m) => m[1]);
const total = (compress) =>
  initial.reduce((sum, name) => sum + compress(readFileSync(join(assets, name))).length, 0) / 1000;
report('initial script, gzip', total(gzipSync), 'kB', 340);
report('initial script, brotli (as sent)', total(brotliCompressSync), 'kB');
report(
  'all built files',
  readdirSync(assets).reduce((sum, name) => sum + statSync(join(assets, name)).size, 0) / 1000,
  'kB',
);

if (!process.argv.includes('--no-browser')) {
  const port = 4498;
  const { browser, close } = await openBrowser(port);
  try {
    const paints = [];
    for (let i = 0; i < 5; i++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      const page = await context.newPage();
      await page.goto(`http://127.0.0.1:${port}/`);
      // Meaningful: the demo's copper and both curves stand on the page.
      await page.waitForFunction(
        () =>
          document.querySelector('polygon') &&
          [...document.querySelectorAll('svg[role=application] path')].filter(
            (path) => (path.getAttribute('d') ?? '').length > 40,
          ).length >= 4,
      );
      paints.push(await page.evaluate(() => performance.now()));
      await context.close();
    }
    report('first visit to copper and curves on the page', median(paints), 'ms', 1200);

    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`http://127.0.0.1:${port}/`);
    await page.waitForFunction(() => document.querySelectorAll('svg[role=application] path').length >= 4);
    await page.waitForTimeout(500);
    /** Types into a named value again and again, and tells how long the curves take to follow. */
    const typing = ({ name, from, step, unit }) =>
      page.evaluate(
        async ({ name, from, step, unit }) => {
          const field = document.querySelector(`input[aria-label="value ${name}"]`);
          const chart = document.querySelector('svg[role=application]');
          let longest = 0;
          new PerformanceObserver((list) => {
            for (const e of list.getEntries()) longest = Math.max(longest, e.duration);
          }).observe({ type: 'longtask' });
          const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
          const type = (text) => {
            set.call(field, text);
            field.dispatchEvent(new Event('input', { bubbles: true }));
          };
          const redrawn = () =>
            new Promise((resolve) => {
              // A value that changes no curve is not waited for.
              setTimeout(() => resolve(performance.now()), 500);
              const observer = new MutationObserver((records) => {
                if (!records.some((r) => r.target.nodeName === 'path')) return;
                observer.disconnect();
                resolve(performance.now());
              });
              observer.observe(chart, { subtree: true, attributes: true });
            });
          const nextFrame = () => new Promise((r) => requestAnimationFrame(r));
          const latencies = [];
          for (let i = 0; i < 120; i++) {
            const done = redrawn();
            const t = performance.now();
            type(`${from + i * step} ${unit}`);
            latencies.push((await done) - t);
            await nextFrame();
          }
          // A drag: a new value at every frame, whatever has been drawn by then.
          const frames = [];
          let last = await nextFrame();
          for (let i = 0; i < 180; i++) {
            type(`${from + i * step * 0.5} ${unit}`);
            const now = await nextFrame();
            frames.push(now - last);
            last = now;
          }
          return { latencies, frames, longest };
        },
        { name, from, step, unit },
      );
    /** What a step of the page that never changes costs just now. */
    const fixedPage = async () => {
      const fixed = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await fixed.setContent(FIXED_PAGE);
      const { task } = await stepping(fixed, 'fixed', 120);
      await fixed.close();
      report('a step of a fixed page', task, 'ms');
    };
    // Combs of many parts, brought in as files like anyone's.
    const combs = {};
    for (const n of [60, 200]) {
      const big = {
        ...demo,
        id: `comb${n}`,
        name: `Comb ${n}`,
        data: [],
        designs: [{ ...comb(n), id: 'comb' }],
      };
      await page.goto(`http://127.0.0.1:${port}/projects`);
      const chooser = page.waitForEvent('filechooser');
      await page.getByRole('button', { name: 'Import a project file' }).click();
      const buffer = Buffer.from(core.writeProject(big));
      await (await chooser).setFiles([{ name: 'comb.ditch.json', mimeType: 'application/json', buffer }]);
      await page.getByRole('link', { name: /^open / }).click();
      await page.getByLabel('value f0', { exact: true }).waitFor();
      combs[n] = new URL(page.url()).pathname;
    }
    const STEPS = 40;
    /** Steps a named value of a page by the arrow keys. */
    const stepping = async (page, name, rest) => {
      // The main thread's own time, which a busy machine does not lengthen as much as the clock.
      const cdp = await page.context().newCDPSession(page);
      await cdp.send('Performance.enable', { timeDomain: 'threadTicks' });
      const spent = async () => {
        const { metrics } = await cdp.send('Performance.getMetrics');
        return Object.fromEntries(metrics.map((m) => [m.name, m.value]));
      };
      const field = page.getByLabel(`value ${name}`, { exact: true });
      await field.focus();
      const press = async () => {
        await page.keyboard.press('Shift+ArrowUp');
        await page.waitForTimeout(rest);
      };
      for (let i = 0; i < 5; i++) await press();
      const before = await spent();
      for (let i = 0; i < STEPS; i++) await press();
      const after = await spent();
      await cdp.detach();
      const each = (metric) => ((after[metric] - before[metric]) / STEPS) * 1000;
      const paint = ['ScriptDuration', 'LayoutDuration', 'RecalcStyleDuration'].reduce(
        (x, m) => x - each(m),
        each('TaskDuration'),
      );
      return {
        task: each('TaskDuration'),
        script: each('ScriptDuration'),
        layout: each('LayoutDuration') + each('RecalcStyleDuration'),
        paint,
      };
    };
    for (const [what, path, value, limit, most, stepped = value.name] of [
      ['a match', '/p/ditchwater/design/lo-match', { name: 'zl', from: 60, step: 0.5, unit: 'ohm' }, 17, 12],
      [
        'a match with its arcs and profiles',
        '/p/ditchwater/design/detector-match',
        { name: 'plane', from: 15, step: 0.02, unit: 'deg' },
        17,
        12,
        'zl',
      ],
      ['a hybrid', '/p/ditchwater/design/hybrid', { name: 'z0', from: 50, step: 0.05, unit: 'ohm' }, 28, 16],
      ['60 parts', combs[60], { name: 'f0', from: 10, step: 0.001, unit: 'GHz' }, undefined, 20],
      ['200 parts', combs[200], { name: 'f0', from: 10, step: 0.001, unit: 'GHz' }, undefined, 33],
    ]) {
      await page.goto(`http://127.0.0.1:${port}${path}`);
      await page.waitForFunction(() => document.querySelectorAll('svg[role=application] path').length >= 4);
      await page.waitForTimeout(1200);
      const step = await stepping(page, stepped, what === '200 parts' ? 350 : 120);
      report(`${what}: main thread for an arrow-key step`, step.task, 'ms', most);
      report(`${what}: of it script`, step.script, 'ms');
      report(`${what}: of it style and layout`, step.layout, 'ms');
      report(`${what}: of it paint and the rest`, step.paint, 'ms');
      report('a fixed calculation, in the page', await page.evaluate(FIXED), 'ms');
      await fixedPage();
      const result = await typing(value);
      report(`${what}: typed value to redrawn curves, median`, median(result.latencies), 'ms', limit);
      report(
        `${what}: the same, 95th percentile`,
        result.latencies.sort((a, b) => a - b)[Math.floor(result.latencies.length * 0.95)],
        'ms',
      );
      report(`${what}: frame interval while a value is dragged, median`, median(result.frames), 'ms');
      report(`${what}: longest task meanwhile (0: none over 50 ms)`, result.longest, 'ms', 50);
    }
  } finally {
    await close();
  }
}
