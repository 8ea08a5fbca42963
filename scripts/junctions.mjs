// Makes the tables of junctions from the field solution and writes them into the core: `node scripts/junctions.mjs [KIND...]`.
// Needed when the field solution of small copper or the layout of a table has changed. What was solved is kept in
// node_modules/.cache, so that a table of higher degree costs only the nodes that it adds; about an hour on two cores.
import { appendFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { format } from 'prettier';
import { builtCore } from './bundle.mjs';

/** Numbers are kept in this unit: far below what the solution is good for. */
const UNIT = 2e-5;
const ACCURACY = 'fine';
/** Of the field solution, for boards open to their sides: what was solved before is solved again. */
const REVISION = 2;

if (!isMainThread) {
  const { drive, storedSteps } = await import(workerData);
  parentPort.on('message', ({ kind, medium, place }) =>
    parentPort.postMessage(drive(storedSteps(kind, medium, place, ACCURACY))),
  );
} else {
  const url = await builtCore(
    'junctions-core',
    `export * from './src/junctions/contract'; export * from './src/junctions/table'; export { isHoused, storedSteps } from './src/junctions/solved'; export { drive } from './src/numeric';`,
  );
  const { forms, isHoused, junctionKinds, tableGrid } = await import(url);

  const cache = new URL('../node_modules/.cache/', import.meta.url);
  mkdirSync(cache, { recursive: true });
  const kept = new URL('ditch-junctions.jsonl', cache);
  const known = new Map();
  if (existsSync(kept))
    for (const line of readFileSync(kept, 'utf8').trim().split('\n')) {
      const [key, numbers] = JSON.parse(line);
      known.set(key, numbers);
    }

  const asked = process.argv.slice(2);
  const tables = ['microstrip', 'stripline'].flatMap((medium) =>
    junctionKinds.filter((k) => asked.length === 0 || asked.includes(k)).map((kind) => ({ kind, medium })),
  );
  const keyOf = (kind, medium, place) => {
    const housed = medium === 'microstrip' && !forms[kind].lid && isHoused(place[place.length - 1]);
    const solved = housed ? ' housed' : ` r${REVISION}`;
    return `${kind} ${medium} ${ACCURACY}${solved} ${place.map((x) => x.toPrecision(9)).join(' ')}`;
  };
  const todo = tables.flatMap(({ kind, medium }) => {
    const grid = tableGrid(kind, medium);
    return grid.degrees
      .map((d) => ({ kind, medium, place: grid.node(d) }))
      .filter(({ place }) => !known.has(keyOf(kind, medium, place)));
  });
  console.log(`${todo.length} junctions to solve`);
  let [next, done] = [0, 0];
  await Promise.all(
    [1, 2].map(
      () =>
        new Promise((resolve, reject) => {
          const worker = new Worker(new URL(import.meta.url), { workerData: url });
          let job;
          const more = () => {
            job = todo[next++];
            if (job) return worker.postMessage(job);
            void worker.terminate();
            resolve();
          };
          worker.on('error', (error) => reject(new Error(`${JSON.stringify(job)}: ${error.message}`)));
          worker.on('message', (numbers) => {
            const key = keyOf(job.kind, job.medium, job.place);
            known.set(key, numbers);
            appendFileSync(kept, `${JSON.stringify([key, numbers])}\n`);
            done++;
            if (done % 20 === 0 || done === todo.length)
              console.log(`${done} of ${todo.length}, now ${job.kind} in ${job.medium}`);
            more();
          });
          more();
        }),
    ),
  );

  const folder = new URL('../packages/core/src/junctions/tables/', import.meta.url);
  mkdirSync(folder, { recursive: true });
  for (const { kind, medium } of tables) {
    const grid = tableGrid(kind, medium);
    // Of what is rounded the next nodes take account.
    const surplus = [];
    let largest = 0;
    for (const d of grid.degrees) {
      const place = grid.node(d);
      const weights = grid.weights(place);
      const row = known
        .get(keyOf(kind, medium, place))
        .map((y, i) => Math.round(y / UNIT - surplus.reduce((s, r, k) => s + weights[k] * r[i], 0)));
      largest = Math.max(...row.map(Math.abs)) * UNIT;
      surplus.push(row);
    }
    const file = new URL(`${kind}-${medium}.json`, folder);
    const text = JSON.stringify({ kind, medium, unit: UNIT, surplus });
    writeFileSync(file, await format(text, { parser: 'json', printWidth: 110 }));
    console.log(`${kind} in ${medium}: ${surplus.length} nodes, the last says ${largest.toFixed(4)}`);
  }
}
