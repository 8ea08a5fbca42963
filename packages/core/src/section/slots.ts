import { EPS0 } from '../numeric/constants';
import { limitOf, merged, solveSymmetric, type Estimate } from './galerkin';
import { spectrum } from './layers';
import { cuts, meanLog, panelsAlong, sinc, type Panel } from './panels';

/** What lies around a coplanar line; lengths in one unit of the caller's. */
export interface SlotSurroundings {
  /** Height of the dielectric below the metal. */
  readonly height: number;
  /** A ground plane closes the dielectric below, or air follows. */
  readonly grounded: boolean;
  /** Distance of a plane above the dielectric; Infinity without one. */
  readonly cover: number;
}

const THICK = 10;
const THIN = 16;
const CORNER = 2.5;
const EDGE = 3;

/** Mean of -ln|u + x - x'| over two panels whose middles are u apart. */
const log = (p: Panel, q: Panel, u: number): number => meanLog(1, p.a, 1, q.a, u, 0);

/** Adds to the upper triangle of `out` what a spectral weight makes of the field on the panels, odd about x = 0. */
function addSpectrum(
  out: Float64Array,
  panels: readonly Panel[],
  k: Float64Array,
  weight: Float64Array,
): void {
  const n = panels.length;
  const wave = new Float64Array(n);
  for (let e = 0; e < k.length; e++) {
    for (let i = 0; i < n; i++) {
      const ka = k[e] * panels[i].a;
      wave[i] = Math.sin(k[e] * panels[i].x) * sinc(ka);
    }
    for (let i = 0; i < n; i++) {
      const c = 2 * weight[e] * wave[i];
      for (let j = i; j < n; j++) out[i * n + j] += c * wave[j];
    }
  }
}

/** ln(sin(v) / v), even and smooth to |v| = pi. */
const lnSinc = (v: number): number => (Math.abs(v) < 1e-4 ? (-v * v) / 6 : Math.log(Math.sin(v) / v));
/** The two nodes of a rule that takes in what is smooth on a panel. */
const NODE = 1 / Math.sqrt(3);

/** The slot's panels and what their fields cost in each region, as upper triangles. */
interface Assembled {
  readonly panels: readonly Panel[];
  /** Below, one for each of the permittivities, and above. */
  readonly below: readonly Float64Array[];
  readonly above: Float64Array;
  /** In a slot with a depth: of a face by itself, and between the two. */
  readonly within?: { readonly same: Float64Array; readonly across: Float64Array };
}

function assembled(
  width: number,
  slot: number,
  thickness: number,
  { height, grounded, cover }: SlotSurroundings,
  permittivities: readonly number[],
  fineness: number,
): Assembled {
  const from = width / 2;
  const to = from + slot;
  const thick = thickness > 0;
  const n = 2 * fineness;
  const share = (thick ? fineness ** -CORNER * Math.min(1, thickness / slot) : fineness ** -EDGE) / 2;
  const panels = panelsAlong(1, 0, cuts(from, to, n, share, share));

  // One face towards air without end: -ln|x - x'| + ln|x + x'|.
  const face = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = i; j < n; j++) {
      const [p, q] = [panels[i], panels[j]];
      face[i * n + j] = log(p, q, p.x - q.x) - log(p, q, p.x + q.x);
    }
  const below = permittivities.map((er) => {
    const out = face.map((v) => er * v);
    const { k, w } = spectrum(2 * height, 2 * to, height);
    const weight = Float64Array.from(k, (kk, e) => {
      const q = Math.exp(-2 * kk * height);
      if (grounded) return (w[e] * er * 2 * q) / (1 - q);
      const t = (1 - q) / (1 + q);
      return w[e] * er * ((1 + er * t) / (er + t) - 1);
    });
    addSpectrum(out, panels, k, weight);
    return out;
  });
  const above = Float64Array.from(face);
  const room = cover - thickness;
  if (room < Infinity) {
    const { k, w } = spectrum(2 * room, 2 * to, room);
    addSpectrum(
      above,
      panels,
      k,
      Float64Array.from(k, (kk, e) => {
        const q = Math.exp(-2 * kk * room);
        return (w[e] * 2 * q) / (1 - q);
      }),
    );
  }
  if (!thick) return { panels, below, above };

  // The slot's modes cos(m pi xi/s): sum of (2/m) coth and 1/sinh, the coth's limit 1 in closed form by its images.
  const same = new Float64Array(n * n);
  const across = new Float64Array(n * n);
  const turn = Math.PI / slot;
  for (let i = 0; i < n; i++)
    for (let j = i; j < n; j++) {
      const [p, q] = [panels[i], panels[j]];
      const [x, y] = [p.x - from, q.x - from];
      let rest = 0;
      for (const s of [-NODE, NODE])
        for (const t of [-NODE, NODE]) {
          const u = x + s * p.a - (y + t * q.a);
          const v = x + s * p.a + (y + t * q.a);
          // -ln(2 sin(turn v/2)) less its logarithms at v = 0 and at v = 2s.
          const half = v <= slot ? v : 2 * slot - v;
          rest -= lnSinc((turn * u) / 2) + lnSinc((turn * half) / 2) - Math.log((2 * slot - half) / slot);
        }
      rest = rest / 4 - 2 * Math.log(turn) + Math.log(slot);
      same[i * n + j] = rest + log(p, q, x - y) + log(p, q, x + y) + log(p, q, 2 * slot - x - y);
    }
  const wave = new Float64Array(n);
  const last = Math.min(20_000, Math.ceil(18 / (turn * thickness)));
  for (let m = 1; m <= last; m++) {
    const kappa = m * turn;
    const decay = Math.exp(-2 * kappa * thickness);
    const coth = (2 * decay) / (1 - decay);
    const sinh = (2 * Math.exp(-kappa * thickness)) / (1 - decay);
    for (let i = 0; i < n; i++) {
      const ka = kappa * panels[i].a;
      wave[i] = Math.cos(kappa * (panels[i].x - from)) * sinc(ka);
    }
    for (let i = 0; i < n; i++) {
      const c = (2 / m) * wave[i];
      for (let j = i, at = i * n + i; j < n; j++, at++) {
        const term = c * wave[j];
        same[at] += coth * term;
        across[at] += sinh * term;
      }
    }
  }
  return { panels, below, above, within: { same, across } };
}

/** The matrix of both faces of a slot with a depth, of `size` panels each. */
function twoFaced(
  size: number,
  lower: Float64Array,
  upper: Float64Array,
  own: Float64Array,
  mutual: Float64Array,
): Float64Array {
  const matrix = new Float64Array(4 * size * size);
  for (let i = 0; i < size; i++)
    for (let j = 0; j < size; j++) {
      const at = i <= j ? i * size + j : j * size + i;
      if (j >= i) {
        matrix[i * 2 * size + j] = lower[at] + own[at];
        matrix[(size + i) * 2 * size + size + j] = upper[at] + own[at];
      }
      matrix[i * 2 * size + size + j] = -mutual[at];
    }
  return matrix;
}

/** For each of a slot's faces, of `size` panels each, the fields that its voltage alone makes; uses the matrix up. */
function driven(matrix: Float64Array, size: number, faces: number): Float64Array[] {
  const columns = Array.from({ length: faces }, (_, g) =>
    new Float64Array(size * faces).fill(1, g * size, (g + 1) * size),
  );
  solveSymmetric(size * faces, matrix, ...columns);
  return columns;
}

/** What the columns' faces add up to: the voltages of unit forces. */
const sums = (columns: readonly Float64Array[], size: number): number[][] =>
  columns.map((b) => columns.map((_, g) => b.subarray(g * size, (g + 1) * size).reduce((x, y) => x + y, 0)));

/**
 * Capacitance in F/m between a strip of `width` and side grounds without end, a `slot` away on either side, for each of
 * the permittivities of the dielectric: the electric field in the slots makes the energy least (the dual of the charge on
 * strips). With a thickness the slot is a region of its own, expanded in its modes, between the fields on its two faces.
 */
export function solveSlots(
  width: number,
  slot: number,
  thickness: number,
  around: SlotSurroundings,
  permittivities: readonly number[],
  fineness = thickness > 0 ? THICK : THIN,
): Estimate[] {
  const { panels, below, above, within } = assembled(
    width,
    slot,
    thickness,
    around,
    permittivities,
    fineness,
  );
  const n = panels.length;
  const shares = Float64Array.from(panels, ({ a }, i) => a / (a + panels[i ^ 1].a));
  const scale = (2 / Math.PI) * EPS0;
  /** C of a set of faces whose fields each have 1 V across the slot. */
  const solve = (matrix: Float64Array, m: number, faces: number): number => {
    const total = sums(driven(matrix, m, faces), m);
    if (faces === 1) return scale / total[0][0];
    const [[aa, ab], [, bb]] = total;
    return (scale * (aa + bb - 2 * ab)) / (aa * bb - ab * ab);
  };
  if (!within)
    return below.map((low) => {
      const matrix = low.map((v, i) => v + above[i]);
      const coarse = solve(merged(n, matrix, shares), n / 2, 1);
      return limitOf(solve(matrix, n, 1), coarse);
    });
  const { same, across } = within;
  const direct = (2 * EPS0 * thickness) / slot;
  const join = (a: Float64Array) => merged(n, a, shares);
  return below.map((low) =>
    limitOf(
      solve(twoFaced(n, low, above, same, across), n, 2) + direct,
      solve(twoFaced(n / 2, join(low), join(above), join(same), join(across)), n / 2, 2) + direct,
    ),
  );
}

/** How 1 V lies across a slot. */
export interface SlotVoltages {
  readonly panels: readonly Panel[];
  /** Of each panel, V: on the lower face of the metal and on the upper one, which are one where it is thin. */
  readonly lower: Float64Array;
  readonly upper: Float64Array;
}

/** The field in the right slot that makes the energy least, with 1 V between strip and side grounds. */
export function slotVoltages(
  width: number,
  slot: number,
  thickness: number,
  around: SlotSurroundings,
  er: number,
): SlotVoltages {
  const fineness = thickness > 0 ? THICK : THIN;
  const { panels, below, above, within } = assembled(width, slot, thickness, around, [er], fineness);
  const n = panels.length;
  if (!within) {
    const [column] = driven(
      below[0].map((v, i) => v + above[i]),
      n,
      1,
    );
    const [[whole]] = sums([column], n);
    const lower = column.map((v) => v / whole);
    return { panels, lower, upper: lower };
  }
  const columns = driven(twoFaced(n, below[0], above, within.same, within.across), n, 2);
  const [[aa, ab], [, bb]] = sums(columns, n);
  // Forces on the two faces for which either has its volt.
  const det = aa * bb - ab * ab;
  const forces = [(bb - ab) / det, (aa - ab) / det];
  const both = columns[0].map((v, i) => forces[0] * v + forces[1] * columns[1][i]);
  return { panels, lower: both.slice(0, n), upper: both.slice(n) };
}
