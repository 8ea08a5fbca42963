import {
  drive,
  planElimination,
  solveComplex,
  solveSingular,
  type Complex,
  type Elimination,
  type Steps,
} from '../numeric';
import type { SData } from '../results';
import type { Electrical } from '../electrical';
import { GROUND, type Network } from './joined';
import { reduce } from './reduce';
import { sweptOver } from './smooth';

/** Solves one frequency after the other into caller's arrays. */
export interface NetworkSolver {
  readonly ports: number;
  /** Writes the `ports x ports` S-matrix at `f` into `re`, `im` from `offset` on. */
  solve(f: number, re: Float64Array, im: Float64Array, offset: number): void;
}

/** Normalising impedance of the internal waves; any positive value gives the same result. */
const ZN = 50;

/** Parts that a path joins to a port; what no port reaches cannot change the result and is left out. */
function reached(network: Network): Network['parts'] {
  const byNode = new Map<string, number[]>();
  network.parts.forEach((part, i) =>
    part.nodes.forEach((node) => {
      if (node === GROUND) return;
      const here = byNode.get(node);
      if (here) here.push(i);
      else byNode.set(node, [i]);
    }),
  );
  const seen = new Set<number>();
  const waiting = network.ports.flatMap((port) => byNode.get(port.node) ?? []);
  for (let i = waiting.pop(); i !== undefined; i = waiting.pop()) {
    if (seen.has(i)) continue;
    seen.add(i);
    for (const node of network.parts[i].nodes) waiting.push(...(byNode.get(node) ?? []));
  }
  return network.parts.filter((_, i) => seen.has(i));
}

/** A connection without length between two nodes. */
const through: Electrical = {
  pins: 2,
  scatter(_f, _zn, re, im) {
    re[0] = re[3] = im[0] = im[1] = im[2] = im[3] = 0;
    re[1] = re[2] = 1;
  },
};
/** Pins at a port's node from which on the port gets a node of its own. */
const CROWD = 8;

/**
 * The network with its ports a connection away from nodes where many parts meet. Voltages of ports are not eliminated;
 * where all that meets at one is short at once, the currents would stay as one dense block.
 */
function setApart(network: Network): Network {
  const pins = new Map<string, number>();
  for (const part of network.parts) for (const node of part.nodes) pins.set(node, (pins.get(node) ?? 0) + 1);
  const crowded = new Set(
    network.ports.map((p) => p.node).filter((n) => n !== GROUND && (pins.get(n) ?? 0) >= CROWD),
  );
  if (crowded.size === 0) return network;
  const own = (node: string) => `#port ${node}`;
  return {
    parts: [
      ...network.parts,
      ...[...crowded].map((node) => ({ electrical: through, nodes: [own(node), node] })),
    ],
    ports: network.ports.map((p) => (crowded.has(p.node) ? { ...p, node: own(p.node) } : p)),
  };
}

/** Eliminations by the pattern they are for: a network tuned or retuned is solved many times with other values. */
const known = new Map<string, Elimination>();
const KNOWN = 32;

/** How often other pivots are looked for before a stubborn network is solved without a plan. */
const PLANS = 8;

/** A network of one part with the ports at its pins, all of one real reference: what it scatters is the answer. */
function asOnePart({ parts, ports }: Network): NetworkSolver | undefined {
  if (parts.length !== 1 || parts[0].nodes.length !== ports.length) return undefined;
  const [{ electrical, nodes }] = parts;
  const { re: z, im: x } = ports[0].z0;
  const pins = ports.map((p) => nodes.indexOf(p.node));
  const same = ports.every((p) => p.z0.re === z && p.z0.im === x);
  if (x !== 0 || !same || new Set(pins).size < ports.length || pins.includes(-1)) return undefined;
  const n = ports.length;
  const from = Int32Array.from(pins.flatMap((i) => pins.map((j) => i * n + j)));
  const sr = new Float64Array(n * n);
  const si = new Float64Array(n * n);
  return {
    ports: n,
    solve(f, re, im, offset) {
      electrical.scatter(f, z, sr, si);
      for (let k = 0; k < from.length; k++) {
        re[offset + k] = sr[from[k]];
        im[offset + k] = si[from[k]];
      }
    },
  };
}

/**
 * Prepares the solution of a network: what can be taken together part by part is, the rest is a system of equations.
 * Where two parts that were taken together resonate by themselves, the network is solved as it is.
 */
export function createSolver(joined: Network): NetworkSolver {
  const network = { ...joined, parts: reached(joined) };
  const { network: small, trapped } = reduce(network);
  const reduced = asOnePart(small) ?? createSystem(small);
  let whole: NetworkSolver | undefined;
  return {
    ports: reduced.ports,
    solve(f, re, im, offset) {
      reduced.solve(f, re, im, offset);
      if (trapped()) (whole ??= createSystem(network)).solve(f, re, im, offset);
    },
  };
}

/**
 * Prepares the solution of a network by wave connection: every part scatters the waves at its pins, every node
 * scatters them back as an ideal joint (with the ports' loads in it). Unknowns are the incident waves at all pins and
 * the voltages of the nodes where more than two pins or a port stand. Ports are terminated by their references, so that
 * S follows directly in power waves (Kurokawa 1965).
 *
 * Passive parts have finite S-matrices at every frequency, so half-wave lines, open and short circuits and lossless
 * resonances need no care. The pivots are chosen once, see `planElimination`; where they do not suit a frequency others
 * are chosen there. A resonance that no port excites leaves the system singular but consistent, see `solveSingular`.
 */
export function createSystem(joined: Network): NetworkSolver {
  const network = setApart(joined);
  const { parts } = network;
  const first: number[] = [];
  const pinsAt = new Map<string, number[]>();
  for (const port of network.ports) if (port.node !== GROUND) pinsAt.set(port.node, []);
  let n = 0;
  for (const part of parts) {
    first.push(n);
    for (const node of part.nodes) {
      if (node !== GROUND) {
        const here = pinsAt.get(node);
        if (here) here.push(n);
        else pinsAt.set(node, [n]);
      }
      n++;
    }
  }
  const m = network.ports.length;
  const atPort = new Set(network.ports.map((p) => p.node).filter((node) => node !== GROUND));
  // Voltages of inner nodes follow the waves; those at the ports come last, because they are what is asked for.
  const inner = [...pinsAt.keys()].filter((node) => !atPort.has(node) && pinsAt.get(node)!.length > 2);
  const voltage = new Map([...inner, ...atPort].map((node, i) => [node, n + i]));
  const keep = atPort.size;
  const size = n + voltage.size;

  // Joint: V = g sum(b) + source, a = V - b, g = 2 / (pins + zn Y) with Y the ports' admittance at the node.
  const joint = new Map<string, Complex>();
  for (const node of voltage.keys()) {
    let yr = pinsAt.get(node)!.length;
    let yi = 0;
    for (const port of network.ports)
      if (port.node === node) {
        const d = ZN / (port.z0.re * port.z0.re + port.z0.im * port.z0.im);
        yr += port.z0.re * d;
        yi -= port.z0.im * d;
      }
    const d = 2 / (yr * yr + yi * yi);
    joint.set(node, { re: yr * d, im: -yi * d });
  }
  // Voltage over sqrt(zn) at a node per unit incident power wave of each of its ports: sqrt(R)/Z * g * sqrt(zn).
  const source = network.ports.map(({ node, z0 }) => {
    const g = joint.get(node);
    if (!g) return { re: 0, im: 0 };
    const scale = (Math.sqrt(z0.re) * Math.sqrt(ZN)) / (z0.re * z0.re + z0.im * z0.im);
    const yr = z0.re * scale;
    const yi = -z0.im * scale;
    return { re: yr * g.re - yi * g.im, im: yr * g.im + yi * g.re };
  });

  // Entries of the matrix: those that stand still, and what each entry of a part's S-matrix adds to which of them.
  const slots = new Map<number, number>();
  const rows: number[] = [];
  const columns: number[] = [];
  const still: number[] = [];
  const slotOf = (row: number, column: number): number => {
    const key = row * size + column;
    let slot = slots.get(key);
    if (slot === undefined) {
      slots.set(key, (slot = rows.length));
      rows.push(row);
      columns.push(column);
      still.push(0);
    }
    return slot;
  };
  for (let k = 0; k < size; k++) still[slotOf(k, k)] = 1;
  for (const [node, row] of voltage) for (const pin of pinsAt.get(node)!) still[slotOf(pin, row)] = -1;
  const targets: number[] = [];
  const factors: number[] = [];
  const counts: number[] = [];
  const add = (row: number, column: number, re: number, im: number) => {
    targets.push(slotOf(row, column));
    factors.push(re, im);
  };
  parts.forEach((part, p) => {
    const pins = part.nodes.length;
    for (let l = 0; l < pins; l++) {
      const node = part.nodes[l];
      const pin = first[p] + l;
      const here = pinsAt.get(node) ?? [];
      const g = joint.get(node);
      for (let c = 0; c < pins; c++) {
        const column = first[p] + c;
        const before = targets.length;
        if (g) {
          add(pin, column, 1, 0);
          add(voltage.get(node)!, column, -g.re, -g.im);
        } else if (node === GROUND) add(pin, column, 1, 0);
        else add(here.length === 1 ? pin : here[0] === pin ? here[1] : here[0], column, -1, 0);
        counts.push(targets.length - before);
      }
    }
  });
  const target = Int32Array.from(targets);
  const factor = Float64Array.from(factors);
  const count = Int32Array.from(counts);
  const pattern = { size, rows: Int32Array.from(rows), columns: Int32Array.from(columns) };
  const electricals = parts.map((p) => p.electrical);
  const sizes = Int32Array.from(parts, (p) => p.nodes.length ** 2);
  const widest = Math.max(1, ...sizes);
  const sr = new Float64Array(widest);
  const si = new Float64Array(widest);

  const key = `${size}:${keep}:${rows.join()}:${columns.join()}`;
  let plan: Elimination | undefined;
  /** Plans made so far: a network that resonates at single frequencies needs one there and another elsewhere. */
  const made: Elimination[] = [];
  let attempts = 0;
  let constant = Float64Array.from(still);
  let ar = new Float64Array(still.length);
  let ai = new Float64Array(still.length);
  const take = (next: Elimination) => {
    plan = next;
    constant = new Float64Array(next.slots);
    constant.set(still);
    ar = new Float64Array(next.slots);
    ai = new Float64Array(next.slots);
    known.delete(key);
    known.set(key, next);
    for (const oldest of known.keys()) {
      if (known.size <= KNOWN) break;
      known.delete(oldest);
    }
  };
  const before = known.get(key);
  if (before) {
    made.push(before);
    take(before);
  }
  /** Writes the entries of the matrix at `f`. */
  const assemble = (f: number): void => {
    ar.set(constant);
    ai.fill(0);
    let entry = 0;
    let at = 0;
    for (let p = 0; p < electricals.length; p++) {
      electricals[p].scatter(f, ZN, sr, si);
      for (let x = 0; x < sizes[p]; x++) {
        for (let end = at + count[entry++]; at < end; at++) {
          const fr = factor[2 * at];
          const fi = factor[2 * at + 1];
          ar[target[at]] += fr * sr[x] - fi * si[x];
          ai[target[at]] += fr * si[x] + fi * sr[x];
        }
      }
    }
  };

  // Voltages at the port nodes, a column for each port driven.
  let kr = new Float64Array(keep * keep);
  let ki = new Float64Array(keep * keep);
  let vr = new Float64Array(keep * m);
  let vi = new Float64Array(keep * m);
  const rowOf = network.ports.map((port) => (voltage.get(port.node) ?? size) - size + keep);
  const sources = (re: Float64Array, im: Float64Array, top: number): void => {
    re.fill(0);
    im.fill(0);
    for (let q = 0; q < m; q++)
      if (rowOf[q] < keep) {
        re[(top + rowOf[q]) * m + q] = source[q].re;
        im[(top + rowOf[q]) * m + q] = source[q].im;
      }
  };
  /** Solves by the plan; false where its pivots do not suit. */
  const byPlan = (f: number): boolean => {
    if (!plan) return false;
    assemble(f);
    if (!plan.reduce(ar, ai)) return false;
    const { order } = plan;
    if (kr.length !== order * order) {
      kr = new Float64Array(order * order);
      ki = new Float64Array(order * order);
      vr = new Float64Array(order * m);
      vi = new Float64Array(order * m);
    }
    for (let x = 0; x < kr.length; x++) {
      const slot = plan.schur[x];
      kr[x] = slot < 0 ? 0 : ar[slot];
      ki[x] = slot < 0 ? 0 : ai[slot];
    }
    sources(vr, vi, 0);
    return solveComplex(order, m, kr, ki, vr, vi);
  };
  /** Solves by another plan that was made before, or by a new one. */
  const byOther = (f: number): boolean => {
    const failed = plan;
    for (const other of made) {
      if (other === failed) continue;
      take(other);
      if (byPlan(f)) return true;
    }
    if (attempts >= PLANS) return false;
    attempts++;
    assemble(f);
    const next = planElimination(pattern, ar, ai, keep);
    if (!next) return false;
    made.push(next);
    take(next);
    return byPlan(f);
  };
  /** Solves the whole matrix with whatever pivots it takes. */
  const byForce = (f: number): void => {
    const fill = () => {
      assemble(f);
      const dr = new Float64Array(size * size);
      const di = new Float64Array(size * size);
      for (let x = 0; x < rows.length; x++) {
        dr[rows[x] * size + columns[x]] = ar[x];
        di[rows[x] * size + columns[x]] = ai[x];
      }
      return [dr, di] as const;
    };
    const xr = new Float64Array(size * m);
    const xi = new Float64Array(size * m);
    sources(xr, xi, size - keep);
    if (!solveComplex(size, m, ...fill(), xr, xi)) {
      sources(xr, xi, size - keep);
      solveSingular(size, m, ...fill(), xr, xi);
    }
    vr.set(xr.subarray((size - keep) * m));
    vi.set(xi.subarray((size - keep) * m));
  };

  // Scattered waves from voltages: b = (V - Z* I) / (2 sqrt R) with I = (E - V)/Z and E = 2 sqrt R for the driven port, so
  // that b = V sqrt(R)/Z - (Z*/Z) E/(2 sqrt R). For each port sqrt(R zn)/Z and Z*/Z.
  const outward = Float64Array.from(
    network.ports.flatMap(({ z0 }) => {
      const scale = 1 / (z0.re * z0.re + z0.im * z0.im);
      const root = Math.sqrt(z0.re) * Math.sqrt(ZN) * scale;
      return [
        root * z0.re,
        -root * z0.im,
        (z0.re * z0.re - z0.im * z0.im) * scale,
        -2 * z0.re * z0.im * scale,
      ];
    }),
  );
  return {
    ports: m,
    solve(f, re, im, offset) {
      if (!byPlan(f) && !byOther(f)) byForce(f);
      for (let q = 0; q < m; q++) {
        const row = rowOf[q] * m;
        const grounded = rowOf[q] >= keep;
        const wr = outward[4 * q];
        const wi = outward[4 * q + 1];
        for (let c = 0; c < m; c++) {
          const ur = grounded ? 0 : vr[row + c];
          const ui = grounded ? 0 : vi[row + c];
          const at = offset + q * m + c;
          re[at] = ur * wr - ui * wi;
          im[at] = ur * wi + ui * wr;
        }
        re[offset + q * m + q] -= outward[4 * q + 2];
        im[offset + q * m + q] -= outward[4 * q + 3];
      }
    },
  };
}

/** S-parameters of a network at all of `freq` (Hz); a step is one frequency. */
export function* samplingSteps(
  network: Network,
  freq: Float64Array,
  solver = createSolver(sweptOver(network, freq)),
): Steps<SData> {
  const size = solver.ports * solver.ports;
  const re = new Float64Array(freq.length * size);
  const im = new Float64Array(freq.length * size);
  for (let k = 0; k < freq.length; k++) {
    solver.solve(freq[k], re, im, k * size);
    yield (k + 1) / freq.length;
  }
  return { ports: solver.ports, freq, re, im, z0: network.ports.map((p) => p.z0) };
}

/** S-parameters of a network at all frequencies (Hz) in one go. */
export const solveNetwork = (network: Network, freq: Float64Array): SData =>
  drive(samplingSteps(network, freq));
