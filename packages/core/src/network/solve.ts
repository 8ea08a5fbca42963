import { solveComplex, solveSingular, type Complex } from '../numeric';
import type { SData } from '../results';
import type { Electrical } from './electrical';

/** A node name that is ground wherever it appears. */
export const GROUND = 'ground';

/** A network ready to be solved: parts joined at named nodes, ports between a node and ground. */
export interface Network {
  readonly parts: readonly { readonly electrical: Electrical; readonly nodes: readonly string[] }[];
  readonly ports: readonly { readonly node: string; readonly z0: Complex }[];
}

/** Solves one frequency after the other into caller's arrays. */
export interface NetworkSolver {
  readonly ports: number;
  /** Writes the `ports x ports` S-matrix at `f` into `re`, `im` from `offset` on. */
  solve(f: number, re: Float64Array, im: Float64Array, offset: number): void;
}

/** Normalising impedance of the internal waves; any positive value gives the same result. */
const ZN = 50;

/** Parts in order of their distance from the first port, which keeps the matrix banded. */
function order(network: Network): Network['parts'] {
  const byNode = new Map<string, number[]>();
  network.parts.forEach((part, i) =>
    part.nodes.forEach((node) => {
      if (node !== GROUND) byNode.set(node, [...(byNode.get(node) ?? []), i]);
    }),
  );
  const seen = new Set<number>();
  const sorted: number[] = [];
  const visit = (start: readonly number[]) => {
    const queue = [...start];
    for (let i = queue.shift(); i !== undefined; i = queue.shift()) {
      if (seen.has(i)) continue;
      seen.add(i);
      sorted.push(i);
      for (const node of network.parts[i].nodes) queue.push(...(byNode.get(node) ?? []));
    }
  };
  for (const port of network.ports) visit(byNode.get(port.node) ?? []);
  // What no port reaches cannot change the result and is left out.
  return sorted.map((i) => network.parts[i]);
}

/**
 * Prepares the solution of a network by wave connection: every part scatters the waves at its pins, every node
 * scatters them back as an ideal joint (with the ports' loads in it), and the incident waves at all pins are the
 * unknowns. Ports are terminated by their references, so that S follows directly in power waves (Kurokawa 1965).
 *
 * Passive parts have finite S-matrices at every frequency, so half-wave lines, open and short circuits and lossless
 * resonances need no care; a resonance that no port excites leaves the system singular but consistent, see
 * `solveSingular`.
 */
export function createSolver(network: Network): NetworkSolver {
  const parts = order(network);
  const nodeIds = new Map<string, number>();
  const idOf = (name: string) => {
    let id = nodeIds.get(name);
    if (id === undefined) nodeIds.set(name, (id = nodeIds.size));
    return id;
  };
  const ports = network.ports.map((port) => ({
    node: port.node === GROUND ? -1 : idOf(port.node),
    z0: port.z0,
  }));
  const pinNode: number[] = [];
  const partOfPin: number[] = [];
  const first: number[] = [];
  parts.forEach((part, p) => {
    first.push(pinNode.length);
    for (const node of part.nodes) {
      pinNode.push(node === GROUND ? -1 : idOf(node));
      partOfPin.push(p);
    }
  });
  const n = pinNode.length;
  const m = ports.length;
  const nodes = nodeIds.size;
  const pinsAt: number[][] = Array.from({ length: nodes }, () => []);
  pinNode.forEach((node, pin) => node >= 0 && pinsAt[node].push(pin));

  // Joint: a_k = g sum(b) - b_k + source, g = 2 / (pins + zn Y) with Y the ports' admittance at the node.
  const gr = new Float64Array(nodes);
  const gi = new Float64Array(nodes);
  for (let node = 0; node < nodes; node++) {
    let yr = pinsAt[node].length;
    let yi = 0;
    for (const port of ports)
      if (port.node === node) {
        const d = ZN / (port.z0.re * port.z0.re + port.z0.im * port.z0.im);
        yr += port.z0.re * d;
        yi -= port.z0.im * d;
      }
    const d = 2 / (yr * yr + yi * yi);
    gr[node] = yr * d;
    gi[node] = -yi * d;
  }
  // Voltage over sqrt(zn) at a node per unit incident power wave of each of its ports: sqrt(R)/Z * g * sqrt(zn).
  const source = ports.map(({ node, z0 }) => {
    if (node < 0) return { re: 0, im: 0 };
    const scale = (Math.sqrt(z0.re) * Math.sqrt(ZN)) / (z0.re * z0.re + z0.im * z0.im);
    const yr = z0.re * scale;
    const yi = -z0.im * scale;
    return { re: yr * gr[node] - yi * gi[node], im: yr * gi[node] + yi * gr[node] };
  });

  const sr: Float64Array[] = parts.map((p) => new Float64Array(p.nodes.length ** 2));
  const si: Float64Array[] = parts.map((p) => new Float64Array(p.nodes.length ** 2));
  const ar = new Float64Array(n * n);
  const ai = new Float64Array(n * n);
  const br = new Float64Array(n * m);
  const bi = new Float64Array(n * m);

  // Bandwidths of the matrix: a pin's row holds the pins of all parts at its node.
  let lower = 0;
  let upper = 0;
  const span = (row: number, column: number) => {
    lower = Math.max(lower, row - column);
    upper = Math.max(upper, column - row);
  };
  for (let l = 0; l < n; l++) {
    const p = partOfPin[l];
    for (let c = first[p]; c < first[p] + parts[p].nodes.length; c++) {
      span(l, c);
      if (pinNode[l] >= 0) for (const k of pinsAt[pinNode[l]]) span(k, c);
    }
  }

  // Flat copies for the loop over frequency: pins of each node, and of each port's node.
  const nodeOf = Int32Array.from(pinNode);
  const partOf = Int32Array.from(partOfPin);
  const start = new Int32Array(nodes + 1);
  for (let node = 0; node < nodes; node++) start[node + 1] = start[node] + pinsAt[node].length;
  const pins = Int32Array.from(pinsAt.flat());
  const sizes = Int32Array.from(parts, (p) => p.nodes.length);
  const firstPin = Int32Array.from(first);
  const portNode = Int32Array.from(ports, (p) => p.node);
  const electricals = parts.map((p) => p.electrical);
  const band = lower + upper;

  /** Writes matrix and sources at `f`. */
  const assemble = (f: number): void => {
    for (let k = 0; k < n; k++) {
      const from = k * n + Math.max(0, k - lower);
      const to = k * n + Math.min(n, k + band + 1);
      for (let i = from; i < to; i++) ar[i] = ai[i] = 0;
      ar[k * n + k] = 1;
    }
    for (let i = 0; i < n * m; i++) br[i] = bi[i] = 0;
    for (let q = 0; q < m; q++) {
      const node = portNode[q];
      for (let x = start[node]; x < start[node + 1]; x++) {
        br[pins[x] * m + q] += source[q].re;
        bi[pins[x] * m + q] += source[q].im;
      }
    }
    for (let p = 0; p < electricals.length; p++) {
      const r = sr[p];
      const i = si[p];
      electricals[p].scatter(f, ZN, r, i);
      const at = firstPin[p];
      const size = sizes[p];
      for (let l = 0; l < size; l++) {
        const node = nodeOf[at + l];
        const own = (at + l) * n + at;
        for (let c = 0; c < size; c++) {
          const xr = r[l * size + c];
          const xi = i[l * size + c];
          // At a joint a = g sum(b) - b: the wave's own part here, the shared part at all pins of the node below.
          ar[own + c] += xr;
          ai[own + c] += xi;
          if (node < 0) continue;
          const wr = gr[node] * xr - gi[node] * xi;
          const wi = gr[node] * xi + gi[node] * xr;
          for (let x = start[node]; x < start[node + 1]; x++) {
            const entry = pins[x] * n + at + c;
            ar[entry] -= wr;
            ai[entry] -= wi;
          }
        }
      }
    }
  };

  return {
    ports: m,
    solve(f, re, im, offset) {
      assemble(f);
      if (!solveComplex(n, m, ar, ai, br, bi, lower, upper)) {
        ar.fill(0);
        ai.fill(0);
        assemble(f);
        solveSingular(n, m, ar, ai, br, bi);
      }
      for (let q = 0; q < m; q++) {
        const node = ports[q].node;
        const z0 = ports[q].z0;
        const root = Math.sqrt(z0.re);
        const scale = 1 / (z0.re * z0.re + z0.im * z0.im);
        for (let c = 0; c < m; c++) {
          // Node voltage over sqrt(zn), from the waves that arrive at the joint and the sources in it.
          let vr = 0;
          let vi = 0;
          for (let y = node < 0 ? 0 : start[node]; y < (node < 0 ? 0 : start[node + 1]); y++) {
            const p = partOf[pins[y]];
            const size = sizes[p];
            const l = pins[y] - firstPin[p];
            for (let x = 0; x < size; x++) {
              const a = (firstPin[p] + x) * m + c;
              vr += sr[p][l * size + x] * br[a] - si[p][l * size + x] * bi[a];
              vi += sr[p][l * size + x] * bi[a] + si[p][l * size + x] * br[a];
            }
          }
          let ur = node < 0 ? 0 : gr[node] * vr - gi[node] * vi;
          let ui = node < 0 ? 0 : gr[node] * vi + gi[node] * vr;
          if (ports[c].node === node) {
            ur += source[c].re;
            ui += source[c].im;
          }
          ur *= Math.sqrt(ZN);
          ui *= Math.sqrt(ZN);
          // b = (V - Z* I) / (2 sqrt R) with I = (E - V)/Z and E = 2 sqrt R for the driven port: b = V sqrt(R)/Z - (Z*/Z) E/(2 sqrt R).
          const at = offset + q * m + c;
          re[at] = root * scale * (ur * z0.re + ui * z0.im);
          im[at] = root * scale * (ui * z0.re - ur * z0.im);
          if (q === c) {
            re[at] -= (z0.re * z0.re - z0.im * z0.im) * scale;
            im[at] += 2 * z0.re * z0.im * scale;
          }
        }
      }
    },
  };
}

/** S-parameters being computed: the frequencies below `done` stand in `data`, `advance` computes those up to `to`. */
export interface Sampling {
  readonly data: SData;
  readonly done: number;
  advance(to: number): void;
}

/**
 * Begins the S-parameters of a network at all of `freq` (Hz). The caller decides how many to compute at a time, so that
 * one loop serves those who wait and those who must let others have a turn.
 */
export function sampleNetwork(network: Network, freq: Float64Array): Sampling {
  const solver = createSolver(network);
  const size = solver.ports * solver.ports;
  const re = new Float64Array(freq.length * size);
  const im = new Float64Array(freq.length * size);
  let done = 0;
  return {
    data: { ports: solver.ports, freq, re, im, z0: network.ports.map((p) => p.z0) },
    get done() {
      return done;
    },
    advance(to) {
      for (const end = Math.min(to, freq.length); done < end; done++)
        solver.solve(freq[done], re, im, done * size);
    },
  };
}

/** S-parameters of a network at all frequencies (Hz) in one go. */
export function solveNetwork(network: Network, freq: Float64Array): SData {
  const sampling = sampleNetwork(network, freq);
  sampling.advance(freq.length);
  return sampling.data;
}
