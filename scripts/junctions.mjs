// Makes the tables of junctions from the field solution and writes them into the core: `node scripts/junctions.mjs [KIND...]`.
// Needed when the field solution of small copper or the layout of a table has changed. What was solved is kept in
// node_modules/.cache, so that a table of higher degree costs only the nodes that it adds; about two hours on two cores.
// A table that was grown keeps its nodes. `--grow N` adds N nodes to each table as it stands, where it bends most; a stop loses
// nothing but the last few.
import { appendFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { format } from 'prettier';
import { builtCore } from './bundle.mjs';

/** Numbers are kept in this unit: far below what the solution is good for. */
const UNIT = 2e-5;
/** Of the field solution, for boards open to their sides: what was solved before is solved again. */
const REVISION = 4;
/** Degree to which that is told where it is told by itself. */
const FAR_DEGREE = 6;
/** Mesh that all is solved with. */
const ACCURACY = 'fine';
/** Nodes added at once, and the highest degree of an axis for each unit of its cost. */
const BATCH = 16;
const HIGHEST = 12;
/** What a lid bends counts for less: fewer boards have one. */
const LID = 0.5;

if (!isMainThread) {
  const { drive, farSteps, storedSteps } = await import(workerData);
  parentPort.on('message', ({ kind, medium, isFar, place }) =>
    parentPort.postMessage(
      drive(isFar ? farSteps(kind, medium, place) : storedSteps(kind, medium, place, ACCURACY)),
    ),
  );
} else {
  const url = await builtCore(
    'junctions-core',
    `export * from './src/junctions/contract'; export * from './src/junctions/table'; export { farSteps, isHoused, isToldFar, storedSteps, toldWith } from './src/junctions/solved'; export { drive } from './src/numeric';`,
  );
  const { axesOf, forms, isHoused, isToldFar, junctionKinds, tableGrid, toldWith } = await import(url);

  const cache = new URL('../node_modules/.cache/', import.meta.url);
  mkdirSync(cache, { recursive: true });
  const kept = new URL('ditch-junctions.jsonl', cache);
  const known = new Map();
  if (existsSync(kept))
    for (const line of readFileSync(kept, 'utf8').trim().split('\n')) {
      const [key, numbers] = JSON.parse(line);
      known.set(key, numbers);
    }

  const { values: options, positionals: asked } = parseArgs({
    allowPositionals: true,
    options: { grow: { type: 'string' }, medium: { type: 'string' } },
  });
  const tables = ['microstrip', 'stripline']
    .filter((m) => options.medium === undefined || options.medium === m)
    .flatMap((medium) =>
      junctionKinds.filter((k) => asked.length === 0 || asked.includes(k)).map((kind) => ({ kind, medium })),
    );
  /** Whether side walls stand around what is solved at a place; what a lid changes of a curve is told beside the open one. */
  const isShutIn = ({ kind, medium }, place) =>
    medium === 'microstrip' && !forms[kind].lid && kind !== 'curve' && isHoused(place[place.length - 1]);
  const keyOf = (table, place) => {
    const { kind, medium, isFar } = table;
    const solved = isShutIn(table, place) ? ' housed' : ` r${REVISION}`;
    const what = isFar ? 'far' : ACCURACY;
    return `${kind} ${medium} ${what}${solved} ${place.map((x) => x.toPrecision(9)).join(' ')}`;
  };

  const hands = [1, 2].map(() => new Worker(new URL(import.meta.url), { workerData: url }));
  /** Solves what is not known yet at some places of a table. */
  const solve = async (table, places, tell) => {
    const todo = places.filter((place) => !known.has(keyOf(table, place)));
    let [next, done] = [0, 0];
    const ask = (hand, place) =>
      new Promise((resolve, reject) => {
        hand.removeAllListeners();
        hand.on('error', (error) => reject(new Error(`${table.kind} at ${place.join()}: ${error.message}`)));
        hand.on('message', resolve);
        hand.postMessage({ ...table, place });
      });
    await Promise.all(
      hands.map(async (hand) => {
        for (let place = todo[next++]; place; place = todo[next++]) {
          const numbers = await ask(hand, place);
          toldWith(table.kind).forEach((kind, i) => {
            const key = keyOf({ ...table, kind }, place);
            known.set(key, numbers[i]);
            appendFileSync(kept, `${JSON.stringify([key, numbers[i]])}\n`);
          });
          tell?.(++done, todo.length);
        }
      }),
    );
  };

  const progress = (what) => (done, all) => {
    if (done % 20 === 0 || done === all) console.log(`${what}: ${done} of ${all} solved`);
  };
  const fileOf = ({ kind, medium }) =>
    new URL(`../packages/core/src/junctions/tables/${kind}-${medium}.json`, import.meta.url);
  const save = async (table, more, surplus) => {
    const text = JSON.stringify({ ...table, unit: UNIT, ...(more.length > 0 && { more }), surplus });
    writeFileSync(fileOf(table), await format(text, { parser: 'json', printWidth: 110 }));
  };
  /** What lines far behind a junction add at the nodes of its grid: to a lower degree than the rest, and nothing where walls are. */
  const farAt = async (table, grid) => {
    if (!isToldFar(table.kind, table.medium)) return undefined;
    const far = { ...table, isFar: true };
    const costs = axesOf(table.kind, table.medium).map((a) => a.cost ?? 1);
    const isTold = (d) => d.reduce((sum, x, i) => sum + x * costs[i], 0) <= FAR_DEGREE;
    const places = grid.degrees.map((d) => grid.node(d));
    const asked = places.filter((place, k) => isTold(grid.degrees[k]) && !isShutIn(table, place));
    await solve(far, asked, progress(`${table.kind} in ${table.medium}, far`));
    const surplus = [];
    return places.map((place) => {
      const weights = grid.weights(place);
      const told = isShutIn(table, place) ? undefined : known.get(keyOf(far, place));
      const size = known.get(keyOf(table, place)).length;
      const before = Array.from({ length: size }, (_, i) =>
        surplus.reduce((sum, row, k) => sum + weights[k] * row[i], 0),
      );
      const value = isShutIn(table, place) ? before.map(() => 0) : (told ?? before);
      surplus.push(value.map((x, i) => x - before[i]));
      return value;
    });
  };
  /** Adds the surplus of the last nodes of a grid; of what is rounded the next nodes take account. */
  const settle = async (table, grid, surplus) => {
    const far = await farAt(table, grid);
    for (let at = surplus.length; at < grid.degrees.length; at++) {
      const place = grid.node(grid.degrees[at]);
      const weights = grid.weights(place);
      surplus.push(
        known
          .get(keyOf(table, place))
          .map((y, i) =>
            Math.round(
              (y + (far?.[at][i] ?? 0)) / UNIT - surplus.reduce((s, r, k) => s + weights[k] * r[i], 0),
            ),
          ),
      );
    }
  };
  const sizeOf = (row) => UNIT * Math.sqrt(row.reduce((s, x) => s + x * x, 0) / row.length);

  /** The degrees that may come next, those first that promise most. */
  const candidates = (table, degrees, surplus) => {
    const axes = axesOf(table.kind, table.medium);
    const sizes = new Map(degrees.map((d, k) => [d.join(), sizeOf(surplus[k])]));
    const found = new Map();
    for (const d of degrees)
      for (let i = 0; i < axes.length; i++) {
        const next = d.map((x, k) => x + (k === i ? 1 : 0));
        const key = next.join();
        if (sizes.has(key) || found.has(key) || next[i] > HIGHEST / (axes[i].cost ?? 1)) continue;
        const back = (axis, by) => sizes.get(next.map((x, k) => x - (k === axis ? by : 0)).join());
        const moved = axes.map((_, k) => k).filter((k) => next[k] > 0);
        if (moved.some((k) => back(k, 1) === undefined)) continue;
        // Even and odd degrees go down each for themselves.
        const promise = Math.min(...moved.map((k) => Math.max(back(k, 1), (back(k, 2) ?? 0) / 2)));
        const hasLid = axes.some((a, k) => a.fromLeast && next[k] > 0);
        found.set(key, { next, promise: promise * (hasLid ? LID : 1) });
      }
    return [...found.values()].sort((a, b) => b.promise - a.promise);
  };

  for (const table of tables) {
    const what = `${table.kind} in ${table.medium}`;
    if (options.grow === undefined) {
      const { more = [] } = existsSync(fileOf(table)) ? JSON.parse(readFileSync(fileOf(table), 'utf8')) : {};
      const grid = tableGrid(table.kind, table.medium, more);
      const places = grid.degrees.map((d) => grid.node(d));
      await solve(table, places, progress(what));
      const surplus = [];
      await settle(table, grid, surplus);
      await save(table, more, surplus);
      console.log(`${what}: ${surplus.length} nodes, the last says ${sizeOf(surplus.at(-1)).toFixed(4)}`);
      continue;
    }
    const { more = [], surplus } = JSON.parse(readFileSync(fileOf(table), 'utf8'));
    for (const end = surplus.length + Number(options.grow); surplus.length < end;) {
      const before = tableGrid(table.kind, table.medium, more);
      const best = candidates(table, before.degrees, surplus).slice(0, Math.min(BATCH, end - surplus.length));
      if (best.length === 0) break;
      more.push(...best.map((b) => b.next));
      const grid = tableGrid(table.kind, table.medium, more);
      await solve(
        table,
        best.map((b) => grid.node(b.next)),
      );
      await settle(table, grid, surplus);
      await save(table, more, surplus);
      const said = best.map((b, k) => sizeOf(surplus[surplus.length - best.length + k]));
      console.log(
        `${what}: ${surplus.length} nodes; promised ${best[0].promise.toFixed(4)} to ${best.at(-1).promise.toFixed(4)}, said up to ${Math.max(...said).toFixed(4)} (${best[said.indexOf(Math.max(...said))].next.join(' ')})`,
      );
    }
  }
  await Promise.all(hands.map((hand) => hand.terminate()));
}
