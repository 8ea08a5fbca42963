import { fromScattering } from '../electrical';
import { addWeighed, chebyshevPlaces, chebyshevWeights, NestedInterpolation } from '../numeric';
import type { SData } from '../results';
import { seenBy, type Circuit, type CircuitPiece } from './circuit';
import { blockOf } from './data';
import type { DataBlock, SolvedOver } from './document';
import type { Network } from './joined';
import { reversed, stateAt } from './sized';
import { createSolver } from './solve';

/** Reference of data that was solved over sizes, ohm. */
const REFERENCE = { re: 50, im: 0 };

/** Share of the band beyond its ends by which models stand alone again. */
const BESIDE = 0.2;

type Join = (circuit: Circuit, data: (id: string) => SData | undefined) => Network;

/** What writes the S-matrix of some pieces as models have them, in {@link REFERENCE}. */
type Modelled = (f: number, re: Float64Array, im: Float64Array) => void;

/** A piece as its model has it. */
export function unbacked(piece: CircuitPiece): CircuitPiece {
  const { kind, nodes, values, settings, facts } = piece;
  return { kind, nodes, values, settings, facts };
}

/** Pieces as their models have them, seen from the ports of solved data. */
function modelled(
  over: Pick<SolvedOver, 'pins'>,
  pieces: readonly CircuitPiece[],
  around: Circuit,
  data: (id: string) => SData | undefined,
  join: Join,
): Modelled {
  const { parts } = join({ ...around, pieces }, data);
  const [first] = parts;
  // A piece alone whose pins are the ports needs no solution.
  if (
    parts.length === 1 &&
    over.pins.length === first.electrical.pins &&
    over.pins.every(([, pin], i) => pin === i)
  )
    return (f, re, im) => first.electrical.scatter(f, REFERENCE.re, re, im);
  const ports = over.pins.map(([piece, pin]) => ({ node: pieces[piece].nodes[pin], z0: REFERENCE }));
  const solver = createSolver({ parts, ports });
  return (f, re, im) => solver.solve(f, re, im, 0);
}

/** The circuit of solved data at a place in its ranges, as models have it. */
export function modelledAt(over: SolvedOver, u: readonly number[], join: Join): Modelled {
  const { substrate, pieces } = stateAt(over, u);
  const model = 'modelled';
  return modelled(
    over,
    pieces.map((p) => seenBy(model, { ...p, values: p.values! })),
    { model, medium: over.medium, substrate, f0: over.f0, pieces: [] },
    () => undefined,
    join,
  );
}

/** By how much what was solved differs from models, at the data's frequencies, at each place in its ranges. */
interface Corrections {
  readonly mark: string;
  readonly interpolation: NestedInterpolation;
  readonly freq: Float64Array;
  /** Weights of the data's frequencies at others; searches and samples ask for the same again and again. */
  readonly weights: Weights;
  /** Places between which the pieces as models have them can be read off as well; absent where it would take too many. */
  readonly smooth?: Weights;
}

/** Places of a band with the weights of their values at other frequencies. */
interface Weights {
  readonly places: Float64Array;
  readonly known: Map<number, Float64Array>;
}

/** Frequencies whose weights are remembered. */
const REMEMBERED = 4096;

function weightsAt({ places, known }: Weights, f: number): Float64Array {
  let found = known.get(f);
  if (!found) {
    found = new Float64Array(places.length);
    chebyshevWeights(places, f, found);
    if (known.size >= REMEMBERED) known.clear();
    known.set(f, found);
  }
  return found;
}

/** Places at which it is tried to read models off, and by how much S may differ between them. */
const TRIED = [17, 33];
const CLOSE = 1e-6;

/** S-matrices at places, one after the other. */
interface Sampled {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/** @param size entries of an S-matrix */
function sampledAt(at: Modelled, places: Float64Array, size: number): Sampled {
  const [re, im] = [new Float64Array(places.length * size), new Float64Array(places.length * size)];
  places.forEach((f, k) => {
    const part = [k * size, (k + 1) * size] as const;
    at(f, re.subarray(...part), im.subarray(...part));
  });
  return { re, im };
}

/** Places from which a model can be read off anywhere in a band. @param size entries of its S-matrix */
function smoothPlaces(model: Modelled, size: number, from: number, to: number): Weights | undefined {
  const [re, im] = [new Float64Array(size), new Float64Array(size)];
  for (const count of TRIED) {
    const places = Float64Array.from(chebyshevPlaces(from, to, count));
    const known = sampledAt(model, places, size);
    const weights = new Float64Array(count);
    let off = 0;
    for (let k = 1; k < count; k++) {
      const f = (places[k] + places[k - 1]) / 2;
      chebyshevWeights(places, f, weights);
      model(f, re, im);
      addWeighed(weights, known.re, 0, re, -1);
      addWeighed(weights, known.im, 0, im, -1);
      for (let e = 0; e < size; e++) off = Math.max(off, Math.hypot(re[e], im[e]));
    }
    if (off < CLOSE) return { places, known: new Map() };
  }
  return undefined;
}

/** Data whose corrections are kept ready. */
const READY = 64;
const ready = new Map<string, Corrections>();

/** Data is never changed once it is made; what has come from elsewhere under the same id differs in these. */
const markOf = ({ re, over }: DataBlock): string =>
  [re.length, re[0], re[re.length - 1], over!.error, over!.axes.map((a) => [a.from, a.to])].join();

function correctionsOf(block: DataBlock, join: Join): Corrections {
  const mark = markOf(block);
  const known = ready.get(block.id);
  if (known?.mark === mark) return known;
  const over = block.over!;
  const n = block.ports ** 2;
  const freq = Float64Array.from(block.freq);
  const size = freq.length * n;
  const interpolation = new NestedInterpolation(over.places);
  over.states.forEach((index, s) => {
    const model = modelledAt(
      over,
      index.map((i) => over.places[i]),
      join,
    );
    const { re, im } = sampledAt(model, freq, n);
    const values = new Float64Array(2 * size);
    for (let at = 0; at < size; at++) {
      values[at] = block.re[s * size + at] - re[at];
      values[size + at] = block.im[s * size + at] - im[at];
    }
    interpolation.take(index, values);
  });
  const middle = modelledAt(
    over,
    over.axes.map(() => 0),
    join,
  );
  const smooth = smoothPlaces(middle, n, freq[0], freq[freq.length - 1]);
  const made: Corrections = {
    mark,
    interpolation,
    freq,
    weights: { places: freq, known: new Map() },
    ...(smooth && { smooth }),
  };
  if (ready.size >= READY) ready.delete(ready.keys().next().value!);
  ready.set(block.id, made);
  return made;
}

/** What of a correction counts at a frequency: all of it in the band, less and less beside it. */
const shareAt = (f: number, from: number, to: number): number => {
  const reach = BESIDE * (to - from);
  const off = Math.max(from - f, f - to, 0);
  return off === 0 ? 1 : Math.max(0, 1 - off / reach);
};

/**
 * Pieces that stand on solved data: as their models have them, put right by what the data differs from models at the same sizes on
 * the same board. Undefined where they are not all there.
 */
export function backedElectrical(
  group: readonly CircuitPiece[],
  circuit: Circuit,
  data: (id: string) => SData | undefined,
  join: Join,
): Network['parts'][number] | undefined {
  const { data: id, at, weight } = group[0].backed!;
  const found = data(id);
  const block = found && blockOf(found);
  if (!block?.over || group.length !== block.over.pieces.length) return undefined;
  const { over, ports: n } = block;
  const pieces = [...group]
    .sort((a, b) => a.backed!.place - b.backed!.place)
    .map((p) => (p.backed!.reversed ? reversed(unbacked(p)) : unbacked(p)));
  const nodes = over.pins.map(([piece, pin]) => pieces[piece].nodes[pin]);
  const corrections = correctionsOf(block, join);
  const { interpolation, freq } = corrections;
  const size = n * n;
  const imaginary = freq.length * size;
  const [from, to] = [freq[0], freq[freq.length - 1]];
  let model: Modelled | undefined;
  let off: Float64Array | undefined;
  const put = (f: number, re: Float64Array, im: Float64Array): void => {
    model ??= modelled(over, pieces, circuit, data, join);
    off ??= interpolation.at(at);
    model(f, re, im);
    const share = weight * shareAt(f, from, to);
    if (share === 0) return;
    const weights = weightsAt(corrections.weights, Math.min(to, Math.max(from, f)));
    addWeighed(weights, off, 0, re, share);
    addWeighed(weights, off, imaginary, im, share);
  };
  // A sweep asks for more frequencies than it takes to know all of them.
  const { smooth } = corrections;
  let asked = 0;
  let known: Sampled | undefined;
  const electrical = fromScattering(
    n,
    nodes.map(() => REFERENCE),
    (f, re, im) => {
      if (!smooth || f < from || f > to || ++asked <= smooth.places.length) return put(f, re, im);
      known ??= sampledAt(put, smooth.places, size);
      const weights = weightsAt(smooth, f);
      re.fill(0);
      im.fill(0);
      addWeighed(weights, known.re, 0, re);
      addWeighed(weights, known.im, 0, im);
    },
  );
  return {
    electrical,
    nodes,
    from: ['solved', id, at, weight, ...pieces.map((p) => [p.kind, p.values, p.settings, p.facts])],
  };
}
